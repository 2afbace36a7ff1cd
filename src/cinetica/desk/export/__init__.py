"""What leaves the window: pictures, reports, traces."""
