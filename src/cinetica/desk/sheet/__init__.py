"""The sheet: numbers and figures of all tunes, typed and dragged."""
