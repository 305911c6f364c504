# make demo   set up, build, make the examples, run on http://127.0.0.1:8765
# make setup  its first part alone
# make test   every check
PY := .venv/bin/python
STAMPS := .venv/.stamps
DEMO_DATA ?= data/demo
FRONT := $(shell find frontend/src frontend/index.html frontend/vite.config.ts -type f 2>/dev/null)
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c

# What is compiled once is kept, whatever the shell says: every start is faster by seconds.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo setup web test ready compiled check-format check-types check-api types chromium wheel lock bench accuracy diagnosis hands-on pairs changes mutants fuzz torture screenshots clean

demo: setup
	@.venv/bin/hollow-pin demo --data $(DEMO_DATA)

setup: $(STAMPS)/python src/hollow_pin/web/index.html

web: src/hollow_pin/web/index.html

.venv/bin/python:
	@command -v python3.11 >/dev/null || command -v python3 >/dev/null || { echo "Python 3.11 is needed."; exit 1; }
	@$$(command -v python3.11 || command -v python3) -m venv .venv

$(STAMPS)/python: requirements.lock pyproject.toml | .venv/bin/python
	@echo "Installing the Python side"
	@$(PY) -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes -r requirements.lock
	@$(PY) -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/dev: requirements-dev.lock $(STAMPS)/python
	@echo "Installing the checks"
	@$(PY) -m pip install --quiet --disable-pip-version-check --no-compile --require-hashes -r requirements-dev.lock
	@touch $@

frontend/node_modules/.package-lock.json: frontend/package-lock.json
	@command -v npm >/dev/null || { echo "Node 20 with npm is needed to build the front end."; exit 1; }
	@echo "Installing the front end's packages"
	@cd frontend && npm ci --silent --no-audit --no-fund
	@touch $@

src/hollow_pin/web/index.html: frontend/node_modules/.package-lock.json $(FRONT)
	@echo "Building the front end"
	@cd frontend && npx --no-install vite build --logLevel error
	@touch $@

# Once, and not by each process of the tests: most of the time that takes is for their assertions.
compiled: $(STAMPS)/dev
	@$(PY) -m pytest --collect-only -qq > $(STAMPS)/collected || { cat $(STAMPS)/collected; exit 1; }

chromium:
	@command -v chromium-headless-shell chromium >/dev/null || { echo "Installing Chromium"; apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium-headless-shell fonts-liberation >/dev/null; }

check-format: $(STAMPS)/dev frontend/node_modules/.package-lock.json
	$(PY) -m ruff format --check -q .
	$(PY) -m ruff check -q .
	.venv/bin/lint-imports --no-cache > /tmp/hollow-pin-imports.txt || { cat /tmp/hollow-pin-imports.txt; exit 1; }
	cd frontend && npx --no-install biome ci --reporter=summary src

check-types: $(STAMPS)/dev frontend/node_modules/.package-lock.json
	$(PY) -m mypy
	cd frontend && npx --no-install tsc --noEmit
	cd frontend && npx --no-install vitest run --reporter=dot --silent

# The front end's types must be those of the present API.
TYPES := frontend/node_modules/.cache/schema.d.ts

$(TYPES): $(STAMPS)/dev frontend/node_modules/.package-lock.json $(shell find src/hollow_pin -name '*.py')
	@mkdir -p $(@D)
	$(PY) -m hollow_pin.api.document > $(@D)/openapi.json
	cd frontend && npx --no-install openapi-typescript ../$(@D)/openapi.json -o ../$@.raw >/dev/null 2>&1
	cd frontend && npx --no-install biome format --stdin-file-path=src/api/schema.d.ts < ../$@.raw > ../$@

check-api: $(TYPES)
	@diff -q $(TYPES) frontend/src/api/schema.d.ts >/dev/null || { echo "frontend/src/api/schema.d.ts is out of date: make types, and commit it."; exit 1; }

types: $(TYPES)
	cp $(TYPES) frontend/src/api/schema.d.ts

ready: setup check-format check-types check-api chromium compiled

# What can go side by side does; then the tests. Numbers are worked out in one thread each: there are
# more processes than cores.
test:
	@$(MAKE) --no-print-directory -j4 --output-sync=target ready
	OPENBLAS_NUM_THREADS=1 $(PY) -m pytest -n 3 --dist loadfile --no-loadscope-reorder

bench: $(STAMPS)/dev setup
	PYTHONPATH=tests $(PY) -m tests.bench

accuracy: $(STAMPS)/dev
	PYTHONPATH=tests $(PY) evaluation/accuracy.py

# One stick by two hands: what is claimed though nothing was done.
pairs: $(STAMPS)/dev
	PYTHONPATH=tests $(PY) evaluation/pairs.py $(ARGS)

# A stick with a fault and without it: what is seen of that.
changes: $(STAMPS)/dev
	PYTHONPATH=tests $(PY) evaluation/changes.py $(ARGS)

# Fits the weights of the causes anew, and judges them.
diagnosis: $(STAMPS)/dev
	PYTHONPATH=tests $(PY) evaluation/diagnosis.py

# Centres stand-ins by hand as it is told, and lets calibrations refuse.
hands-on: $(STAMPS)/dev
	PYTHONPATH=tests $(PY) evaluation/hands_on.py

$(STAMPS)/mutants: requirements-mutants.lock $(STAMPS)/dev
	@$(PY) -m pip install --quiet --disable-pip-version-check --no-compile --no-deps --require-hashes --target .venv/mutants --upgrade -r requirements-mutants.lock
	@touch $@

# Changes the code a little, in hundreds of places drawn by chance, and names the changes that no test
# notices.
mutants: $(STAMPS)/mutants
	$(PY) evaluation/mutants.py $(ARGS)

fuzz: $(STAMPS)/dev setup
	PYTHONPATH=tests $(PY) tests/fuzz.py

torture: $(STAMPS)/dev setup
	PYTHONPATH=tests $(PY) -m torture $(ARGS)

screenshots: $(STAMPS)/dev setup chromium
	PYTHONPATH=tests $(PY) -m tests.browser.screenshots

wheel: $(STAMPS)/dev setup
	$(PY) -m build --wheel --no-isolation --outdir dist .

lock: $(STAMPS)/dev
	.venv/bin/uv pip compile -q --upgrade --universal --generate-hashes --no-emit-index-url --python-version 3.11 --custom-compile-command "make lock" -o requirements.lock requirements.in
	.venv/bin/uv pip compile -q --upgrade --universal --generate-hashes --no-emit-index-url --python-version 3.11 --custom-compile-command "make lock" -c requirements.lock -o requirements-dev.lock requirements-dev.in
	.venv/bin/uv pip compile -q --upgrade --universal --generate-hashes --no-emit-index-url --python-version 3.11 --custom-compile-command "make lock" -c requirements-dev.lock -o requirements-mutants.lock requirements-mutants.in

clean:
	rm -rf .venv frontend/node_modules src/hollow_pin/web
