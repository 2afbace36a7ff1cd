"""Matching in the window: the wanted curve is chosen or drawn, the numbers are searched, and the answer is a tune."""
