"""How curves, bodies, grids and axes are painted. What is kept of a picture has a key that holds all that it depends
on."""
