# The two commands for a fresh machine, and the fast lane beside them. Each sets up all that it needs, and none asks.
PYTHON ?= python3
# What was compiled once is kept, whatever is set where this runs.
unexport PYTHONDONTWRITEBYTECODE
VENV ?= .venv
BIN = $(VENV)/bin
FAST = tests/core tests/files tests/language tests/text/stage tests/report tests/work tests/test_architecture.py
HALF = tests/cli tests/core tests/editors
NEEDS_SYSTEM = tests/files/test_layouts_against_libxkbcommon.py

.PHONY: demo compiled test test-long test-all check editors bench docs screenshots clean

demo: $(VENV)/demo.stamp
	@sh tools/install-editors nano joe dte bubblewrap || true
	@$(BIN)/ombix demo </dev/null

test:
	@$(MAKE) --no-print-directory -j 2 compiled editors
	$(BIN)/python -m pytest -n 4 --dist worksteal -m 'not long and not every_pair' tests </dev/null

# All that the tests read, compiled once for those that run them, by two at a time.
compiled: $(VENV)/test.stamp
	@$(BIN)/python -m pytest -q --collect-only $(HALF) </dev/null >/dev/null & half=$$!; \
	$(BIN)/python -m pytest -q --collect-only tests $(HALF:%=--ignore %) </dev/null >/dev/null && wait $$half

# What takes long: presses between editors, kills, set-ups from nothing.
test-long: $(VENV)/test.stamp editors
	$(BIN)/python -m pytest -n 6 --dist load --maxschedchunk 1 -m 'long and not every_pair' tests </dev/null

# And between all pairs of editors, and ten times as many random cases.
test-all: test test-long
	$(BIN)/python -m pytest -n 5 --dist worksteal -m every_pair tests </dev/null
	OMBIX_MORE=10 $(BIN)/python -m pytest -n 3 --dist worksteal -m 'not long and not every_pair' $(FAST) tests/editors </dev/null

# The fast lane: what needs no system package, and no editor to be pressed in.
check: $(VENV)/test.stamp
	$(BIN)/python -m pytest -n 3 $(FAST) --ignore $(NEEDS_SYSTEM) </dev/null
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy

$(VENV)/demo.stamp: pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-input --no-compile -e '.[prove]'
	@touch $@

$(VENV)/test.stamp: pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-input --no-compile -e '.[test]'
	@touch $@

# The real editors that the tests press keys in, and the terminal and the layouts that they are held against.
editors:
	@sh tools/install-editors

bench: $(VENV)/test.stamp
	$(BIN)/python bench/startup.py
	$(BIN)/python bench/auditing.py
	$(BIN)/python bench/porting.py
	$(BIN)/python bench/drawing.py
	$(BIN)/python bench/use.py

docs: $(VENV)/test.stamp
	$(BIN)/python tools/refresh_docs.py

screenshots: $(VENV)/test.stamp editors
	sh tools/take-screenshots $(BIN)

clean:
	rm -rf $(VENV) build dist .mypy_cache .ruff_cache .pytest_cache .hypothesis
