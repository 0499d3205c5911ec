"""Starting the program, its window, its theme and the bridge to Qt."""
