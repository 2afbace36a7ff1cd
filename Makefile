.PHONY: setup demo test thorough monkey attack lint bench screenshots figures manual dist install uninstall

PREFIX ?= $(HOME)/.local

setup:
	@tools/setup

demo:
	@tools/setup demo
	@.venv/bin/cinetica demo

# The kernel is compiled once, before two or more processes share the tests. Bytecode is kept, whatever the environment
# says: dozens of tests start the program, and every process would compile all of its modules anew.
test thorough: export PYTHONDONTWRITEBYTECODE =
test: setup
	.venv/bin/python -m cinetica.desk.warm
	.venv/bin/python -m pytest -n auto --dist worksteal -m "not thorough"

# The tests marked as thorough: more seeds, languages, sizes of text and processes. `.ci/run` runs both.
thorough: setup
	.venv/bin/python -m pytest -n auto --dist worksteal -m thorough

# A monkey at the real window: `make monkey SECONDS=600 SEED=7`, or at several: `WINDOWS=3`.
SECONDS ?= 60
WINDOWS ?= 1
monkey: setup
	QT_QPA_PLATFORM=offscreen .venv/bin/python -m tests.desk.monkey --seconds $(SECONDS) --windows $(WINDOWS) $(if $(SEED),--seed $(SEED))

# What the tests leave to chance, far more often than in every run: properties, damaged files, kills, and the code of 300
# tunes in five languages. Takes about three quarters of an hour.
attack: setup
	CINETICA_TESTS_TIMES=3 .venv/bin/python -m pytest -n auto tests/model tests/motion tests/reading tests/desk/test_painting.py
	CINETICA_TESTS_TIMES=50 .venv/bin/python -m pytest -n auto tests/codegen
	CINETICA_TESTS_TIMES=5 .venv/bin/python -m pytest -n auto tests/files/test_handover.py tests/files/test_hostile.py tests/files/test_recovery.py tests/desk/test_settings.py
	CINETICA_TESTS_TIMES=100 tools/screen 1920x1080 env CINETICA_TESTS_ON=xcb .venv/bin/python -m pytest -n auto tests/desk/test_killed.py

lint: setup
	.venv/bin/ruff check .
	.venv/bin/ruff format --check .
	.venv/bin/mypy
	.venv/bin/vulture
	.venv/bin/python tools/stale_names.py

# What is not compiled yet is not what is measured, or shown in a picture.
bench: setup
	@.venv/bin/python -m cinetica.desk.warm
	.venv/bin/python -m benchmarks

figures: setup
	.venv/bin/python tools/figures.py
	.venv/bin/python tools/schema.py

screenshots: setup
	@.venv/bin/python -m cinetica.desk.warm
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
