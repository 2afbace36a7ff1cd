"""How curves, bodies, grids and axes are painted. The key of a cached image contains all that it depends on."""
