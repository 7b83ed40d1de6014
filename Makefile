# Two commands do everything on a fresh Debian machine with python3 and make:
#   make demo   opens the window on the demo workshop
#   make test   runs all checks and tests
PYTHON ?= $(shell sh scripts/fastest-python)
BIN := .venv/bin
READY := .venv/.ready

# Tests start many processes of their own; compiled once, they begin at once.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo test run-tests test-slow quick shots bench attack endurance setup check examples guide docs dist deb clean

demo: setup
	@$(BIN)/plinth demo

# Checks and tests beside each other: the checks keep one processor busy, and the tests take what is left.
test: setup
	@$(MAKE) --no-print-directory -j2 check run-tests

run-tests: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/pytest -n auto --dist worksteal

# What the ordinary run leaves out because it takes long: the whole family where that takes a few, longer searches,
# and what `python -m tests.ordinary_run` found to call nothing that others do not.
test-slow: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/pytest -n auto --dist worksteal -m 'slow or later'

# Before each commit: what computes and reads, without the window.
quick: check
	@$(BIN)/pytest -n auto --dist worksteal tests/units tests/builds tests/physics tests/processes tests/record

check: setup
	@$(BIN)/ruff format --check .
	@$(BIN)/ruff check .
	@$(BIN)/mypy
	@$(BIN)/lint-imports

shots: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/python scripts/shots.py

bench: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/pytest benchmarks -o addopts="" -q --benchmark-enable --benchmark-columns=median,min,rounds

# Random kills, mutated files, typed strings, full disks, random actions: MINUTES (fractions too), SEED, KIND to choose.
MINUTES ?= 1
SEED ?= 1
attack: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/python -W ignore -m tests.attack $(MINUTES) $(SEED) $(KIND)

# A day of use in hurried time: HOURS, SEED and BUILDS to choose; memory hour by hour, what is left behind.
HOURS ?= 8
BUILDS ?= 10
endurance: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/python -W ignore -m tests.endurance $(HOURS) $(SEED) $(BUILDS)

examples: setup
	@$(BIN)/python scripts/write_examples.py

setup: $(READY)

$(READY): requirements.lock pyproject.toml scripts/system-libraries scripts/fastest-python
	@sh scripts/system-libraries
	@test -x $(BIN)/python || $(PYTHON) -m venv .venv
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile --no-deps -r requirements.lock
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

# The guide's parts that code knows best, and the whole of it as a page and a PDF, in dist.
guide: setup
	@QT_QPA_PLATFORM=offscreen $(BIN)/python -m scripts.guide dist 2>/dev/null
	@ls -l dist/plinth-guide.*

# What `import plinth` gives, as pages, in dist/docs.
docs: setup
	@$(BIN)/python -m scripts.docs dist/docs
	@ls -l dist/docs

# A wheel and a source archive, in dist.
dist: setup
	@mkdir -p dist
	@$(BIN)/python -c "from setuptools import build_meta; build_meta.build_sdist('dist'); build_meta.build_wheel('dist')" >/dev/null
	@ls -l dist

# A package for Debian 12 and newer, in dist; its own environment, beside that of the tests.
deb: setup
	@test -x build/deb/venv/bin/python || $(PYTHON) -m venv build/deb/venv
	@build/deb/venv/bin/python -m pip install --quiet --disable-pip-version-check -r requirements.lock -r scripts/installed/requirements-deb.txt
	@build/deb/venv/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --force-reinstall .
	@mkdir -p dist && build/deb/venv/bin/python -m scripts.installed.build_deb build/deb/out
	@cp build/deb/out/*.deb dist/

clean:
	rm -rf .venv .mypy_cache .ruff_cache .pytest_cache .hypothesis .import_linter_cache
