# Everything a newcomer types: make demo, make test. The rest is for those who work on it.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .stamps
CHECKS := ../shared/checks
PORT ?= 8640
DATA ?= parcel-data
PAGE_SOURCES := $(shell find frontend/src frontend/public -type f) frontend/index.html frontend/vite.config.ts frontend/package-lock.json

# Modules are compiled once, whatever the machine is set to: every process would do it anew.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: setup demo serve test check types bench constants prior plans accuracy learning condition detectors hostile soak locks clean
.DEFAULT_GOAL := demo

setup: $(STAMPS)/python $(STAMPS)/page

demo: setup
	@$(BIN)/hardy-parcel serve --demo --data $(DATA) --port $(PORT)

serve: setup
	@$(BIN)/hardy-parcel serve --data $(DATA) --port $(PORT)

$(STAMPS)/venv:
	@mkdir -p $(STAMPS)
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || \
		{ echo 'Hardy Parcel needs Python 3.11 or newer; give it with PYTHON=…'; exit 1; }
	@echo 'Making a Python environment in $(VENV)'
	@$(PYTHON) -m venv $(VENV)
	@touch $@

$(STAMPS)/python: requirements.txt pyproject.toml $(STAMPS)/venv
	@echo 'Installing the Python packages (a minute or two the first time)'
	@$(BIN)/pip install -q --disable-pip-version-check --require-hashes -r requirements.txt
	@$(BIN)/pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e .
	@$(BIN)/python -c 'import hardy_parcel.media.kernels'  # compiled for this processor once, rather than at the first start
	@touch $@

$(STAMPS)/dev: requirements-dev.txt $(STAMPS)/python
	@echo 'Installing what tests and checks need'
	@$(BIN)/pip install -q --disable-pip-version-check --require-hashes -r requirements-dev.txt
	@touch $@

$(STAMPS)/node: frontend/package.json frontend/package-lock.json
	@mkdir -p $(STAMPS)
	@command -v npm >/dev/null || { echo 'Hardy Parcel needs Node 20 or newer, with npm.'; exit 1; }
	@echo 'Installing the page'"'"'s packages'
	@cd frontend && npm ci --silent --no-audit --no-fund
	@touch $@

$(STAMPS)/page: $(PAGE_SOURCES) $(STAMPS)/node $(STAMPS)/python scripts/notices.py
	@echo 'Building the page'
	@cd frontend && npx vite build --logLevel warn
	@$(BIN)/python scripts/notices.py src/hardy_parcel/web/static/notices.txt
	@touch $@

$(STAMPS)/chromium: scripts/chromium.sh
	@mkdir -p $(STAMPS)
	@sh scripts/chromium.sh
	@touch $@

test: setup $(STAMPS)/dev $(STAMPS)/chromium
	@cd frontend && npx vitest run --reporter=dot
	@$(BIN)/pytest -n 3 --dist loadfile --no-loadscope-reorder --max-worker-restart 1 $(ARGS)

check: setup $(STAMPS)/dev
	$(BIN)/ruff check src tests benchmarks
	$(BIN)/mypy
	$(BIN)/lint-imports --no-cache
	cd frontend && npx vue-tsc --noEmit && npx eslint --max-warnings 0 .
	sh scripts/types.sh check
	@if [ -d $(CHECKS) ]; then python3 $(CHECKS)/own_names.py . && python3 $(CHECKS)/tree_report.py .; fi

# The page's types, made from the service's OpenAPI document.
types: $(STAMPS)/python $(STAMPS)/node
	sh scripts/types.sh write

# Packing against a bare decode → encode loop in pairs, checks against running time, memory against length and size.
bench: setup $(STAMPS)/dev
	@$(BIN)/python -m benchmarks.planning
	@$(BIN)/python -m benchmarks.dragging
	@$(BIN)/python -m benchmarks.forecasting
	@$(BIN)/python -m benchmarks.comparing
	@$(BIN)/python -m benchmarks.many_videos
	@$(BIN)/python -m benchmarks.probing
	@$(BIN)/python -m benchmarks.packing
	@$(BIN)/python -m benchmarks.checking
	@$(BIN)/python -m benchmarks.uploading
	@$(BIN)/python -m benchmarks.memory
	@$(BIN)/python -m benchmarks.answering
	@$(BIN)/python -m benchmarks.foretelling

# The constants that the core takes as measured, measured again (some minutes).
constants: setup
	@$(BIN)/python -m benchmarks.constants

# The prior of the sheet gear, fitted anew on probes of made films. ARGS="--kept FOLDER" keeps what takes long.
prior: setup
	@$(BIN)/python -m benchmarks.prior $(ARGS)

# Every plan of the made-up masters, with its reasons: docs/plans.md. ARGS is a folder of them where their facts are to be read anew.
plans: setup
	@$(BIN)/python -m benchmarks.plans $(ARGS)

# Forecasts against the film packed, handled and measured whole; rewrites the table in docs/accuracy.md. ARGS: --kept FOLDER --ways N --rehearse N
accuracy: setup
	@$(BIN)/python -m benchmarks.accuracy $(ARGS)

# What two returned files teach of stand-ins whose handling was altered (some fifteen minutes). ARGS are destinations.
learning: setup
	@$(BIN)/python -m benchmarks.learning $(ARGS)

# How well the condition scale meets its study, fitted anew with each clip left out.
condition: setup
	@$(BIN)/python -m benchmarks.condition

# Misses and false alarms of every check on made films; rewrites the table in docs/accuracy.md (some ten minutes).
detectors: setup
	@$(BIN)/python -m benchmarks.detectors $(ARGS)

# Hundreds of damaged files through a real service, which must answer each and leave nothing behind (some ten minutes), then twenty
# thousand requests spoilt at random: no fault of ours, none slower than two seconds.
hostile: setup $(STAMPS)/dev
	@$(BIN)/python -m benchmarks.hostile $(ARGS)
	@$(BIN)/python -m benchmarks.mutations

# Two hundred random faults while parcels are packed: kills, restarts, folders that go away (some half an hour).
soak: setup $(STAMPS)/dev
	@$(BIN)/python -m benchmarks.soak $(ARGS)

# Pins with hashes and without index addresses, from pyproject.toml.
locks: $(STAMPS)/dev
	$(BIN)/pip-compile -q --generate-hashes --allow-unsafe --all-build-deps --strip-extras --no-header \
		--no-emit-index-url --no-emit-trusted-host --no-emit-find-links -o requirements.txt pyproject.toml
	$(BIN)/pip-compile -q --generate-hashes --allow-unsafe --all-build-deps --strip-extras --no-header \
		--no-emit-index-url --no-emit-trusted-host --no-emit-find-links -c requirements.txt --extra dev -o requirements-dev.txt pyproject.toml

clean:
	rm -rf $(VENV) $(STAMPS) frontend/node_modules src/hardy_parcel/web/static
