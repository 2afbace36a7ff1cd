"""The movement model as flat compiled functions, one file for each section of docs/model.md."""
