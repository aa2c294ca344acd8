# Two commands: `make demo` starts the application with demo data, `make test` passes all checks and tests.
# Each sets up what it needs and does nothing twice.

PYTHON ?= $(shell command -v python3.11 || command -v python3)
BIN := .venv/bin
SECONDS ?= 60
NPM := npm --prefix web --no-audit --no-fund --loglevel=error
CHROMIUM := /usr/bin/chromium
NETWORK := /usr/sbin/nft /usr/bin/tshark
PAGE := zensur/server/page/index.html
DOCUMENT := web/src/api/openapi.json
TYPES := web/src/api/generated.d.ts
WEB := $(filter-out $(DOCUMENT) $(TYPES),$(shell find web/src web/index.html web/vite.config.ts web/package.json -type f 2>/dev/null))

.PHONY: help demo test build wheel setup lint pytest mutants types screenshots bench kernel fuzz clean
.DEFAULT_GOAL := help

help:  ## show this
	@grep -hE '^[a-z]+:.*## ' $(MAKEFILE_LIST) | awk -F ':.*## ' '{printf "  make %-12s %s\n", $$1, $$2}'

demo: $(if $(wildcard .stamps/python),.stamps/python,.stamps/running) build  ## set up and start the application with demo data, PORT=8017
	@$(BIN)/zensur demo $(if $(PORT),--port $(PORT))

test: setup build $(CHROMIUM) $(NETWORK) lint pytest mutants  ## set everything up and pass all checks and tests

setup: .stamps/python .stamps/web

build: $(PAGE)  ## build the front end

wheel: .stamps/running build  ## build a wheel that holds the front end and the demo, into dist
	@rm -rf build dist && $(BIN)/pip wheel --quiet --disable-pip-version-check --no-deps -w dist . && rm -rf build
	@ls dist/*.whl

lint: setup $(TYPES)  ## ruff, mypy, import-linter, generated files, tsc, eslint, prettier
	@echo "== ruff, mypy, import-linter"
	@$(BIN)/ruff check . && $(BIN)/ruff format --check --quiet . && $(BIN)/mypy && $(BIN)/lint-imports --no-logo 2>/dev/null
	@echo "== generated files"
	@$(BIN)/python tools/generate.py --check
	@echo "== tsc, eslint, prettier"
	@$(NPM) run --silent lint

pytest: setup build $(CHROMIUM) $(NETWORK)
	@echo "== pytest"
	@$(BIN)/pytest -n 2 --dist loadfile

mutants: setup  ## change the arithmetic of marking in small ways: a test has to notice each
	@echo "== mutants"
	@$(BIN)/python tools/mutants.py

types: setup  ## make the OpenAPI document, the word table and the front end's types anew
	@$(BIN)/python tools/generate.py
	@$(MAKE) --silent $(TYPES)

screenshots: setup build $(CHROMIUM)  ## take the pictures of docs/screenshots anew
	@$(BIN)/python tools/screenshots.py

bench: setup  ## print figures of speed
	@$(BIN)/python -m bench

kernel: setup $(NETWORK)  ## compare with the Linux kernel: N=40 random networks of each family
	@KERNEL_LABS=$(or $(N),40) $(BIN)/pytest tests/kernel

fuzz: setup  ## feed the readers and the simulator with made-up input, SECONDS=60 each
	@$(BIN)/pip install --quiet --disable-pip-version-check -e '.[fuzz]'
	@$(BIN)/python tools/fuzz.py sheet $(SECONDS) && $(BIN)/python tools/fuzz.py data $(SECONDS) && $(BIN)/python tools/fuzz.py lab $(SECONDS) \
	  && $(BIN)/python tools/fuzz.py network $(SECONDS) && $(BIN)/python tools/fuzz.py archive $(SECONDS)

clean:  ## remove what was set up and built
	rm -rf .venv .stamps $(DOCUMENT) $(TYPES) web/node_modules zensur/server/page zensur/pages/fonts

$(BIN)/python:
	@test -n "$(PYTHON)" || { echo "Python 3.11 is missing: apt-get install python3 python3-venv"; exit 1; }
	@"$(PYTHON)" -m venv .venv || { echo "Python's venv is missing: apt-get install python3-venv"; exit 1; }

.stamps/python: pyproject.toml constraints.txt | $(BIN)/python
	@echo "== Python packages into .venv"
	@$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e '.[dev]'
	@mkdir -p .stamps && touch $@

.stamps/running: pyproject.toml constraints.txt | $(BIN)/python  # what running needs, and not what testing does
	@echo "== Python packages into .venv"
	@$(BIN)/pip install --quiet --disable-pip-version-check -c constraints.txt -e .
	@mkdir -p .stamps && touch $@

.stamps/web: web/package-lock.json
	@command -v npm >/dev/null || { echo "Node 20 with npm is missing: apt-get install nodejs npm"; exit 1; }
	@echo "== front-end packages into web/node_modules"
	@$(NPM) ci --silent
	@mkdir -p .stamps && touch $@

# neither of the two is kept: they say nothing that the shapes of the server do not
$(DOCUMENT): $(shell find zensur -name '*.py') tools/generate.py | .stamps/python
	@$(BIN)/python tools/generate.py --document && touch $@

$(TYPES): $(DOCUMENT) .stamps/web
	@$(NPM) run --silent types >/dev/null && touch $@

$(PAGE): .stamps/web $(WEB)
	@echo "== front end"
	@$(NPM) run --silent build -- --logLevel warn
	@mkdir -p zensur/pages/fonts && cp web/node_modules/@fontsource/atkinson-hyperlegible-next/files/*-latin-400-normal.woff2 \
	  web/node_modules/@fontsource/atkinson-hyperlegible-mono/files/*-latin-400-normal.woff2 \
	  web/node_modules/@fontsource/source-serif-4/files/source-serif-4-latin-600-normal.woff2 zensur/pages/fonts
	@touch $@

$(CHROMIUM):
	@echo "== Chromium from Debian's packages"
	@test "$$(id -u)" = 0 || { echo "Chromium is missing: sudo apt-get install chromium"; exit 1; }
	@apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium >/dev/null

$(NETWORK):  # for tests/kernel and of captures, which are skipped where they cannot run
	@echo "== iproute2, nftables and tshark from Debian's packages"
	@test "$$(id -u)" != 0 || { apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq iproute2 nftables tshark >/dev/null; }
