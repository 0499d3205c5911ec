# Two commands: `make demo` and `make test`. Both set everything up first. `make hard` takes four hours.
.PHONY: demo test hard setup clean bench
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMP := $(VENV)/.ready
COVER := --cov --cov-report=
TWO_DISPLAYS := -d --dist worksteal --tx '2*popen//python=bash tools/with_display.sh $(BIN)/python'

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
	$(BIN)/python tools/docstrings.py
	@rm -f .coverage .coverage.*
	COVERAGE_FILE=.coverage.session $(BIN)/python -m pytest $(COVER) -p no:pytest-qt tests/session
	COVERAGE_FILE=.coverage.core bash tools/with_display.sh $(BIN)/python -m pytest $(COVER) -n 2 --ignore tests/desktop --ignore tests/session
	COVERAGE_FILE=.coverage.desktop $(BIN)/python -m pytest $(COVER) $(TWO_DISPLAYS) tests/desktop
	@$(BIN)/python -m coverage combine --quiet
	@$(BIN)/python tools/covered.py 90

# A restless hand for an hour, thousands of texts a field, of mutated cases, tracks and tables, 200 kills; limits of time are
# asserted here alone.
hard: setup
	YAPA_HARD=1 bash tools/with_display.sh $(BIN)/python -m pytest -s -o timeout=7200 tests/hard tests/physics/test_drawn_scenes.py tests/session/test_races.py tests/fitting/test_strange_tracks.py tests/desktop/test_typed.py tests/desktop/test_sheets.py tests/desktop/test_long.py

bench: setup
	$(BIN)/python -m benchmarks.drop
	$(BIN)/python -m benchmarks.engine
	$(BIN)/python -m benchmarks.outcomes
	$(BIN)/python -m benchmarks.fit
	$(BIN)/python -m benchmarks.apart
	$(BIN)/python -m benchmarks.apart.named
	$(BIN)/python -m benchmarks.start
	bash tools/with_display.sh $(BIN)/python -m benchmarks.desktop
	bash tools/with_display.sh $(BIN)/python -m benchmarks.build

clean:
	rm -rf $(VENV) demo-output
