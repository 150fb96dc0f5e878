"""The main window, its commands and its dialogs."""
