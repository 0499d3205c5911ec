# Two commands: `make demo` and `make test`. Both set everything up first.
.PHONY: demo test setup clean bench
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready

setup: $(STAMP)
	@$(BIN)/yapa warm

$(STAMP): requirements.lock pyproject.toml tools/system_packages.sh
	@bash tools/system_packages.sh
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --requirement requirements.lock
	@$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --editable .
	@touch $(STAMP)

demo: setup
	@bash tools/with_display.sh --demo $(BIN)

test: setup
	$(BIN)/ruff check src tests tools benchmarks
	$(BIN)/mypy
	$(BIN)/lint-imports --no-cache
	bash tools/with_display.sh $(BIN)/python -m pytest

bench: setup
	$(BIN)/python -m benchmarks.drop
	$(BIN)/python -m benchmarks.engine
	$(BIN)/python -m benchmarks.outcomes
	$(BIN)/python -m benchmarks.fit

clean:
	rm -rf $(VENV) demo-output
