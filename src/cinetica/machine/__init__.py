"""Machine code that is compiled once, kept on disk, and loaded without the compiler."""
