# The two commands for a fresh machine. Each sets up all that it needs.
PYTHON ?= python3
VENV ?= .venv
BIN = $(VENV)/bin

.PHONY: demo test editors bench docs screenshots clean

demo: $(VENV)/demo.stamp
	$(BIN)/ombix demo

test: $(VENV)/test.stamp editors
	$(BIN)/python -m pytest -n 3 --dist worksteal tests

$(VENV)/demo.stamp: pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e '.[prove]'
	touch $@

$(VENV)/test.stamp: pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e '.[test]'
	touch $@

# The real editors that the tests press keys in, and the manual that they are held against.
editors:
	@sh tools/install-editors

bench: $(VENV)/test.stamp
	$(BIN)/python bench/startup.py

docs: $(VENV)/test.stamp
	$(BIN)/python tools/refresh_docs.py

screenshots: $(VENV)/test.stamp editors
	sh tools/take-screenshots $(BIN)

clean:
	rm -rf $(VENV) build dist .mypy_cache .ruff_cache .pytest_cache .hypothesis
