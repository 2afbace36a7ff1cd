.PHONY: setup demo test lint bench screenshots figures

setup:
	@tools/setup

demo: setup
	@.venv/bin/cinetica demo

test: setup
	.venv/bin/python -m pytest

lint: setup
	.venv/bin/ruff check .
	.venv/bin/mypy

bench: setup
	.venv/bin/python -m benchmarks

figures: setup
	.venv/bin/python tools/figures.py
	.venv/bin/python tools/schema.py

screenshots: setup
	.venv/bin/python tools/screenshots.py
