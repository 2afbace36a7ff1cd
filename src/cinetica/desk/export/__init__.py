"""What leaves the window: pictures, sheets, traces."""
