"""The state of the window: the study with its undo list, what is shown, settings. Knows no widget."""
