"""What thousands of runs show at a glance: maps, press windows, reach and sensitivity."""
