# Two commands do everything: `make demo` and `make test`. The rest is for maintainers.
PY ?= python3
BIN := .venv/bin
PORT ?= 8310
# compiled once, a process starts in half the time, and tests start dozens
export PYTHONDONTWRITEBYTECODE :=
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)
RUN := PYTHONPATH=src $(BIN)/python
INSTALL = { $(BIN)/uv pip install -q --python $(BIN)/python --compile-bytecode --require-hashes -r $< \
	|| $(BIN)/pip install -q --require-hashes -r $<; } && touch $@
COMPILE = $(BIN)/uv pip compile -q --universal --python-version 3.11 --generate-hashes --no-header --no-annotate

demo: .venv/run.ok ## start the application with the demo jobs
	@$(RUN) -m ready_trail demo --db .demo/ready-trail.db --port $(PORT)

test: check .venv/apt.ok ## install what tests need and run all of them
	$(RUN) -m pytest -q -n auto --dist worksteal

check: .venv/dev.ok ## format, lint, types, import directions
	$(BIN)/ruff format --check -q src tests scripts
	$(BIN)/ruff check -q src tests scripts
	$(BIN)/mypy
	PYTHONPATH=src $(BIN)/lint-imports --no-cache

bench: .venv/dev.ok .venv/apt.ok ## print measured speeds and sizes
	$(RUN) scripts/bench.py

search: .venv/dev.ok .venv/apt.ok ## run the property tests with new examples (`make test` draws the same each time)
	$(RUN) -m pytest -q -n auto --hypothesis-profile search tests/core

fuzz: .venv/fuzz.ok ## send odd requests to a real server and print what broke (N=, SEED=, API=)
	$(RUN) scripts/fuzz.py

load: .venv/run.ok ## many clients at once, kills while writing, thousands of edits: print what held
	$(RUN) scripts/load.py

mutants: .venv/dev.ok .venv/apt.ok ## seed mistakes into the core and print those that no test notices
	$(RUN) scripts/mutants.py

shots: .venv/dev.ok .venv/apt.ok ## refresh docs/screenshots from the demo data
	$(RUN) scripts/shots.py

fmt: .venv/dev.ok ## format the code
	$(BIN)/ruff format -q src tests scripts
	$(BIN)/ruff check -q --fix src tests scripts

schema: .venv/run.ok ## write docs/job.schema.json anew
	$(RUN) scripts/write_schema.py

findings: .venv/run.ok ## write docs/findings.md anew
	$(RUN) scripts/write_findings.py

schemes: .venv/run.ok ## write docs/schemes.md and its pictures anew
	$(RUN) scripts/write_schemes.py

lock: .venv/run.ok ## pin the requirements anew
	$(COMPILE) -o requirements.txt requirements.in
	$(COMPILE) -c requirements.txt -o requirements-dev.txt requirements-dev.in
	$(COMPILE) -c requirements.txt -c requirements-dev.txt -o requirements-fuzz.txt requirements-fuzz.in

.venv/run.ok: requirements.txt
	@$(PY) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Ready Trail needs Python 3.11 or newer"; exit 1; }
	$(PY) -m venv .venv && { $(BIN)/pip install -q uv==0.13.9 || true; }
	$(INSTALL)

.venv/dev.ok: requirements-dev.txt .venv/run.ok
	$(INSTALL)

.venv/fuzz.ok: requirements-fuzz.txt .venv/run.ok
	$(INSTALL)

.venv/apt.ok: .venv/run.ok
	@need=; command -v chromium >/dev/null || need=chromium; \
	command -v ngspice >/dev/null || need="$$need ngspice"; \
	command -v pdftotext >/dev/null || need="$$need poppler-utils"; \
	[ -z "$$need" ] || { $(SUDO) apt-get update -q && $(SUDO) env DEBIAN_FRONTEND=noninteractive \
	  apt-get install -qy --no-install-recommends $$need; } && touch $@

.PHONY: demo test check bench search fuzz load mutants shots fmt schema schemes findings lock
