.DEFAULT_GOAL := help
.PHONY: help demo dev test quick test-slow check bench fuzz torture audit screenshots lock mutants judgement licences wheel clean

PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PORT ?= 8719
STAMP := $(VENV)/.installed
NODE_STAMP := frontend/node_modules/.installed
PAGE := src/neatpatch/api/page/index.html
TYPES := frontend/src/api/schema.d.ts
API_SOURCES := $(shell find src/neatpatch -name '*.py')
PAGE_SOURCES := $(shell find frontend/src frontend/public -type f ! -name schema.d.ts 2>/dev/null) frontend/index.html frontend/vite.config.ts

help: ## Show what can be done here
	@grep -E '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed 's/:.*## /\t/' | expand -t 14

demo: $(STAMP) $(PAGE) ## Set everything up and serve the page with the demo archive
	$(BIN)/neatpatch demo --port $(PORT)

dev: $(STAMP) $(NODE_STAMP) $(TYPES) ## Serve the API, and the page with live reload, on demo data
	@trap 'kill 0' EXIT; $(BIN)/neatpatch demo --port $(PORT) & cd frontend && npm run dev

test: $(STAMP) $(PAGE) $(TYPES) chromium disks ## Set everything up and run all tests
	cd frontend && npm run --silent test
	@$(BIN)/python -m compileall -q src bench
	$(BIN)/python -m pytest

quick: $(STAMP) ## Core, store and API without a browser, and without what takes seconds
	$(BIN)/python -m pytest --durations=0 --durations-min=5 -m "not slow and not long and not browser" \
	  tests/core tests/store tests/api tests/test_imports.py

test-slow: $(STAMP) ## The sweeps that `make test` leaves out, and the torture's long form
	$(BIN)/python -m pytest -m slow
	$(BIN)/python -m bench.torture

check: $(STAMP) $(NODE_STAMP) $(TYPES) ## Formatting, lint and strict types of both languages
	$(BIN)/ruff check src tests bench
	$(BIN)/ruff format --check src tests bench
	$(BIN)/mypy
	cd frontend && npm run --silent lint && npm run --silent types

bench: $(STAMP) $(VENV)/.bench ## Print accuracy and speed, ours and of general-purpose detectors
	$(BIN)/python -m bench

fuzz: $(STAMP) ## Read thousands of damaged files and odd arrays, answer thousands of odd requests
	$(BIN)/python -m bench.fuzz
	$(BIN)/python -m bench.requests

torture: $(STAMP) ## Stop, kill, starve and race the real server; print what was lost (needs root for a small disk)
	$(BIN)/python -m bench.torture

audit: $(NODE_STAMP) ## Ask advisory databases about everything that is depended on (needs the network)
	$(PYTHON) -m venv $(VENV)/audit
	$(VENV)/audit/bin/python -m pip install -q --disable-pip-version-check pip-audit
	$(VENV)/audit/bin/pip-audit --strict --disable-pip --require-hashes -r requirements.txt
	cd frontend && npm audit

screenshots: $(STAMP) $(PAGE) chromium ## Take the pictures in docs/screenshots anew
	$(BIN)/python -m tests.browser.screenshots

mutants: $(STAMP) ## Count the small faults in the core that its tests notice (takes long)
	$(BIN)/python -m bench.mutants

judgement: $(STAMP) ## Write docs/judgement.md from the rules
	$(BIN)/python -c "from neatpatch.core.advice.document import judgement_text; \
	  open('docs/judgement.md', 'w', encoding='utf-8').write(judgement_text())"

lock: $(STAMP) ## Pin and hash all Python packages anew (the bench's rivals are in requirements-bench.txt)
	$(BIN)/python -m pip install -q pip-tools
	$(BIN)/pip-compile -q --generate-hashes --no-emit-index-url --no-emit-find-links --no-header \
	  --no-annotate --allow-unsafe --strip-extras --extra dev --build-deps-for editable \
	  -o requirements.txt pyproject.toml

licences: $(STAMP) ## Write THIRD-PARTY.md: each package that ships, with its licence
	$(BIN)/python -m bench.third_party

wheel: $(STAMP) $(PAGE) ## Build a wheel with the page inside, to install where there is no Node
	$(BIN)/python -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w dist .

clean: ## Remove everything that can be made again
	rm -rf $(VENV) frontend/node_modules src/neatpatch/api/page

.PHONY: chromium disks
disks:
	@command -v mount.exfat-fuse >/dev/null && command -v mkfs.exfat >/dev/null || { \
	  echo "Installing tools for a disk like a memory card from Debian's packages"; \
	  SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
	  $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends \
	    exfat-fuse exfatprogs; }

chromium:
	@command -v chromium >/dev/null || { \
	  echo "Installing chromium from Debian's packages"; \
	  SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
	  $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends chromium; }

$(STAMP): requirements.txt pyproject.toml
	$(PYTHON) -m venv $(VENV)
	@if command -v uv >/dev/null; then \
	  VIRTUAL_ENV=$(VENV) uv pip install -q --compile-bytecode --require-hashes -r requirements.txt; \
	else \
	  $(BIN)/python -m pip install -q --disable-pip-version-check --require-hashes -r requirements.txt; \
	fi
	$(BIN)/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	@$(BIN)/python -m compileall -q src
	@touch $@

$(VENV)/.bench: requirements-bench.txt $(STAMP)
	$(BIN)/python -m pip install -q --disable-pip-version-check --require-hashes -r requirements-bench.txt
	@touch $@

$(NODE_STAMP): frontend/package-lock.json frontend/.npmrc
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

$(TYPES): $(STAMP) $(NODE_STAMP) $(API_SOURCES)
	$(BIN)/python -m neatpatch.api.describe frontend/openapi.json
	cd frontend && npm run --silent schema

$(PAGE): $(NODE_STAMP) $(PAGE_SOURCES)
	cd frontend && npm run --silent build
