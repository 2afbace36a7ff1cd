"""The window. Widgets show and edit; every number comes from the other packages."""
