"""What happens where bodies touch: rows and points, the law and its solvers, impacts, the log of phases."""
