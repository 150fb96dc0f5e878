"""What is open: the workbench, its history, its file, its runs."""
