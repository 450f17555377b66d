# Targets are the same ones that CI runs. `make demo` and `make test` set up what they need.
PYTHON ?= python3.11
QUICK_TESTS := tests/study/test_document.py tests/study/test_take_out.py tests/study/test_units.py tests/study/test_ledger.py \
	tests/store/test_database.py tests/api/test_latest.py tests/core/handcalc tests/core/material tests/core/geometry/test_outline.py \
	tests/core/contact/test_laws.py tests/core/solve/test_linear.py tests/core/solve/test_newmark.py
# Two tests at a time have one core each.
ONE_THREAD := ULMEK_THREADS=1 OMP_NUM_THREADS=1 MKL_NUM_THREADS=1
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .stamps
# Compiled modules are kept, whatever the environment says: without them every process compiles two thousand of them anew.
export PYTHONDONTWRITEBYTECODE =
# A fifth of the time that pip takes; what it cannot fetch, as it knows nothing of pip's own settings, pip does.
UV := uv==0.13.9
install = $(BIN)/uv pip install -q --python $(BIN)/python $(1) || $(BIN)/pip install -q --no-compile $(1)
CORE_SOURCES := $(shell find src/ulmek/core src/ulmek/draw -name '*.py')
WEB_SOURCES := $(shell find web/src -type f -not -name schema.d.ts) web/openapi.json web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: setup demo dev check check-server check-page quick quick-server quick-page test-page ready test verify bench types verdicts settled screenshots hooks

setup: $(STAMPS)/python $(STAMPS)/web

$(STAMPS)/python: requirements.txt pyproject.toml
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV) || python3 -m venv $(VENV)
	$(BIN)/pip install -q $(UV)
	$(call install,-r requirements.txt)
	$(call install,--no-deps -e .)
	mkdir -p $(STAMPS) && touch $@

$(STAMPS)/node: web/package.json web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	mkdir -p $(STAMPS) && touch $@

$(STAMPS)/web: $(STAMPS)/node $(WEB_SOURCES)
	cd web && npm run --silent build
	touch $@

# Debian's chromium, for the tests that drive the real page.
$(STAMPS)/chromium:
	command -v chromium >/dev/null || (apt-get update -q && apt-get install -y -q --no-install-recommends chromium)
	mkdir -p $(STAMPS) && touch $@

# Numba's compiled code, kept beside the sources: without it the first run of all would take a minute longer.
$(STAMPS)/kernels: $(STAMPS)/python $(CORE_SOURCES)
	$(BIN)/ulmek compile
	touch $@

demo: setup $(STAMPS)/kernels
	$(BIN)/ulmek serve --with-demo

dev: setup
	$(BIN)/ulmek serve --with-demo & cd web && npm run dev

check: setup check-server check-page

check-server: $(STAMPS)/python
	$(BIN)/ruff format --check src tests benchmarks docs
	$(BIN)/ruff check src tests benchmarks docs
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m ulmek.api.openapi --check

check-page: $(STAMPS)/node
	cd web && npm run --silent check

# What a change needs, in under two minutes: all checks but the rules that need types of their own, the page's logic, tests
# of the components that are touched by what is not committed yet, and the tests that take no solving.
quick: $(STAMPS)/python $(STAMPS)/node
	QUICK=1 $(MAKE) --no-print-directory -j 3 --output-sync=target check-page quick-page quick-server

quick-server: check-server
	$(BIN)/pytest -m "not slow" $(QUICK_TESTS)

quick-page: $(STAMPS)/node
	cd web && npx vitest run --project logic && npx vitest run --project components --project alone --changed

test-page: $(STAMPS)/node
	cd web && npm run --silent test

# What needs no more than one core goes side by side: server and page are made ready and checked at once.
ready: setup $(STAMPS)/chromium $(STAMPS)/kernels check-server check-page test-page

test:
	$(MAKE) --no-print-directory -j 2 --output-sync=target ready
	$(ONE_THREAD) $(BIN)/pytest -n 2 --dist worksteal

verify: $(STAMPS)/python
	$(BIN)/ulmek verify --write docs/verification.md

bench: $(STAMPS)/python
	$(BIN)/python benchmarks/speed.py

# The front end's types are generated from openapi.json whenever it is built or checked.
types: $(STAMPS)/python
	$(BIN)/python -m ulmek.api.openapi

# Git hooks that run the quick checks on what is committed.
hooks: setup
	$(BIN)/pre-commit install

# How verdicts of the demos fare on finer meshes; takes some minutes.
verdicts: $(STAMPS)/python
	$(BIN)/python docs/finer_meshes.py docs/finer-meshes.md

# What settling makes of coarse studies beside closed forms; takes some minutes.
settled: $(STAMPS)/python
	$(BIN)/python docs/settled_cases.py docs/settled-cases.md

screenshots: setup
	$(BIN)/python docs/take_screenshots.py
