"""The page Overview: a card for every drill of the view."""
