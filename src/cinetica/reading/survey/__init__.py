"""What thousands of runs show together: maps, press windows, reach and sensitivity."""
