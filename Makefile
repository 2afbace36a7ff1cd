.PHONY: setup demo test lint bench screenshots figures manual dist install uninstall

PREFIX ?= $(HOME)/.local

setup:
	@tools/setup

demo: setup
	@.venv/bin/cinetica demo

# The kernel is compiled once, before two or more processes share the tests.
test: setup
	.venv/bin/python -m cinetica.motion.warm
	.venv/bin/python -m pytest -n auto

lint: setup
	.venv/bin/ruff check .
	.venv/bin/mypy

bench: setup
	.venv/bin/python -m benchmarks

figures: setup
	.venv/bin/python tools/figures.py
	.venv/bin/python tools/schema.py

screenshots: setup
	@tools/screen 1280x800 .venv/bin/python tools/screenshots.py

manual: setup
	.venv/bin/python tools/manual.py

# Wheel and source distribution, in dist/.
dist: manual
	.venv/bin/python -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w dist .
	.venv/bin/python -c "from setuptools import build_meta; build_meta.build_sdist('dist')"

install: dist
	@tools/install "$(PREFIX)"

uninstall:
	@tools/install --remove "$(PREFIX)"
