# Sets up a virtual environment of its own and runs what the README names.
VENV ?= .venv
PYTHON ?= python3
BIN = $(VENV)/bin

# What is compiled is kept, by whomever that was turned off: a test starts many processes.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: setup demo test engines test-engines exhaustive mutants sanitize lint unit build-check bench demo-data clean

$(VENV)/.ready: pyproject.toml setup.py src/fieldstick/kernels/_walkers.c
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e '.[all,dev]'
	@touch $@

setup: $(VENV)/.ready

demo: setup
	@rm -rf build/larkmoor
	@$(BIN)/fieldstick demo --into build/larkmoor

test: setup lint unit build-check

lint: setup
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

# Without plug-ins of other packages, and with those that are named, modules of Fieldstick are imported as they are,
# which pytest would read a second time for their assertions, since one of them is a plug-in.
unit: setup
	PYTEST_DISABLE_PLUGIN_AUTOLOAD=1 $(BIN)/python -m pytest -n 2 -p xdist.plugin -p _hypothesis_pytestplugin

# The interpreters and servers that patterns are run on in tests, from Debian where they may be installed.
engines:
	$(PYTHON) tools/install_engines.py

# Tests of an engine that is not there are skipped by its name.
test-engines: setup engines
	$(BIN)/python -m pytest -n 2 -rs tests/engines tests/handover tests/commands/test_engines.py tests/commands/test_handover.py

# Every harvested expression, and a thousand examples of each law from a seed that is always the same: among them
# random configurations of the commands held against plain scripts, and suites with any value at any key. make test
# takes a twentieth of it, from another seed each day.
exhaustive: setup
	FIELDSTICK_TESTS=exhaustive $(BIN)/python -m pytest -n 2 --hypothesis-seed 2026

# Small changes to the code that decides results, one at a time, each to be noticed; a quarter of an hour, and no part
# of make test.
mutants: setup
	$(BIN)/python tools/mutants.py

# The walkers built with checks for every place in memory that they touch (gcc), under the tests that drive them.
sanitize: setup
	$(BIN)/python tools/sanitize.py

build-check: setup
	$(BIN)/python tools/try_wheel.py

bench: setup
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e '.[bench]'
	$(BIN)/python benchmarks/start.py
	$(BIN)/python benchmarks/check.py
	$(BIN)/python benchmarks/drafting.py
	$(BIN)/python benchmarks/slips.py
	$(BIN)/python benchmarks/slips.py --held-out
	$(BIN)/python benchmarks/long_slips.py --slips 120
	$(BIN)/python benchmarks/proposals.py
	$(BIN)/python benchmarks/line_kinds.py
	$(BIN)/python benchmarks/at_work.py
	$(BIN)/python benchmarks/extract.py
	$(BIN)/python benchmarks/lookup.py
	$(BIN)/python benchmarks/long_lines.py
	$(BIN)/python benchmarks/elsewhere.py
	$(BIN)/python benchmarks/trials.py
	$(BIN)/python benchmarks/proofs.py
	$(BIN)/python benchmarks/gaps.py

demo-data: setup
	$(BIN)/python tools/make_demo_data.py

clean:
	rm -rf $(VENV) build dist .mypy_cache .ruff_cache .pytest_cache .import_linter_cache .hypothesis
