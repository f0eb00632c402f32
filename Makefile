# Two commands work on a fresh machine (Debian, Python 3.11, make): make demo, make test.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STYLES_AND_SCRIPTS := "src/clavis/web/**/*.css" "src/clavis/web/**/*.js"
export PIP_DISABLE_PIP_VERSION_CHECK := 1
# what Python makes of its sources is kept for the next start, whatever the shell says
unexport PYTHONDONTWRITEBYTECODE

.PHONY: demo demo-reset serve lint check test chromium bench fuzz format schemas lock screenshots clean

demo: $(VENV)/.run
	@$(BIN)/clavis demo

demo-reset: $(VENV)/.run
	@$(BIN)/clavis demo --reset

serve: $(VENV)/.run
	@$(BIN)/clavis serve

lint: $(VENV)/.dev  ## code, templates, styles and scripts; types and arrows
	$(BIN)/ruff check src tests
	$(BIN)/ruff format --check src tests
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/djlint src/clavis/web --lint --quiet
	$(BIN)/oxlint --quiet src/clavis/web
	$(BIN)/oxfmt --check $(STYLES_AND_SCRIPTS)

check: lint $(VENV)/.run  ## lint, and the tests that are neither long nor in a browser
	$(BIN)/pytest -n auto -m "not browser and not long"

test:  ## lint, and every test: those in a browser beside the others; what they need is set up side by side
	@$(MAKE) -j3 --no-print-directory $(VENV)/.run $(VENV)/.dev chromium
	@sh tools/run-tests $(BIN) "$(MAKE)"

chromium:
	@sh tools/need-chromium

bench: $(VENV)/.dev $(VENV)/.run  ## speed and memory; the soak of twenty people takes ten minutes of it
	$(BIN)/pytest tests/bench.py tests/browser/bench.py --benchmark-only --benchmark-columns=min,median,max,rounds -o addopts=
	$(BIN)/python -m tests.soak

fuzz: $(VENV)/.dev $(VENV)/.run  ## 20,000 odd requests at every route, 16,000 damaged files: none ends in a fault
	$(BIN)/python -m tests.fuzz
	$(BIN)/python -m tests.damage 1000

screenshots: $(VENV)/.dev $(VENV)/.run  ## refresh docs/screenshots from the demo world
	@sh tools/need-chromium
	$(BIN)/python tools/screenshots.py

schemas: $(VENV)/.run  ## publish the schemas of the open formats again
	$(BIN)/clavis schema job > docs/formats/job-v3.schema.json
	$(BIN)/clavis schema answers > docs/formats/answers-v2.schema.json
	$(BIN)/clavis schema rides > docs/formats/rides-v1.schema.json

format: $(VENV)/.dev  ## put code, styles and scripts into their form
	$(BIN)/ruff check --fix src tests
	$(BIN)/ruff format src tests
	$(BIN)/oxfmt $(STYLES_AND_SCRIPTS)

lock: | $(VENV)/bin/pip  ## write the lock files again: hashes, no index addresses
	$(PYTHON) -m venv $(VENV)/lock && $(VENV)/lock/bin/pip install -q uv
	$(VENV)/lock/bin/uv pip compile --universal --python-version 3.11 --generate-hashes --no-header --no-annotate -q requirements.in -o requirements.lock
	$(VENV)/lock/bin/uv pip compile --universal --python-version 3.11 --generate-hashes --no-header --no-annotate -q -c requirements.lock requirements-dev.in -o requirements-dev.lock

$(VENV)/bin/pip:
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' 2>/dev/null || { echo "Python 3.11 or newer is needed: apt-get install python3"; exit 1; }
	@$(PYTHON) -c 'import ensurepip, venv' 2>/dev/null || { echo "Python's venv is missing: apt-get install python3-venv"; exit 1; }
	@echo "Setting up (once) …"
	@$(PYTHON) -m venv $(VENV)

$(VENV)/.packages: requirements.lock pyproject.toml | $(VENV)/bin/pip
	@$(BIN)/pip install -q --no-compile --require-hashes -r requirements.lock
	@$(BIN)/pip install -q --no-deps --no-build-isolation -e .
	@touch $@

# Everything that start-up and the pages need is compiled here: bytecode (of packages what is used, a quarter of what is in
# them), and the heat loop.
LATER := alembic.command, alembic.config, PIL.Image, PIL.ImageOps, scipy.optimize, scipy.stats, uvicorn
$(VENV)/.run: $(VENV)/.packages $(wildcard src/clavis/core/physics/*kernel.py)
	@$(BIN)/python -m compileall -q src
	@echo "Compiling the heat model (once, about half a minute) …"
	@$(BIN)/clavis warm
	@$(BIN)/python -c "import clavis.web.app, $(LATER)"
	@touch $@

$(VENV)/.dev: requirements-dev.lock $(VENV)/.packages
	@$(BIN)/pip install -q --no-compile --require-hashes -r requirements-dev.lock
	@touch $@

clean:
	rm -rf $(VENV) var build .pytest_cache .mypy_cache .ruff_cache .hypothesis
