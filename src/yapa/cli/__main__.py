"""``python -m yapa.cli``."""

from yapa.cli import main

if __name__ == "__main__":
    main()
