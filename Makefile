# Everything a new machine needs is made here; nothing is assumed to be installed by hand.
VENV := .venv
PY := $(VENV)/bin/python
PORT ?= 8000
DEMO_DATA ?= .demo

.PHONY: setup setup-dev demo run test test-postgres databases soak styles hands screenshots bench figures house attack audit mutants chromium format lock

setup: $(VENV)/.installed

$(VENV)/bin/python:
	@echo "First time: a Python environment in $(VENV)."
	@sh tools/make-venv.sh $(VENV)

$(VENV)/.installed: requirements.lock pyproject.toml | $(VENV)/bin/python
	@echo "Installing what Fair Line needs into $(VENV), about 300 MB: one to three minutes."
	$(PY) -m pip install --quiet --require-hashes -r requirements.lock
	$(PY) -m pip install --quiet --no-deps --no-build-isolation -e .
	touch $@

setup-dev: $(VENV)/.installed-dev

$(VENV)/.installed-dev: requirements-dev.lock $(VENV)/.installed
	$(PY) -m pip install --quiet --require-hashes -r requirements-dev.lock
	touch $@

demo: setup
	@echo "The demo company's jobs, made anew in $(DEMO_DATA) where there are none: a few seconds."
	$(VENV)/bin/fairline demo --port $(PORT) --data $(DEMO_DATA)

run: setup
	$(VENV)/bin/fairline serve --port $(PORT)

# Asks the package index for known flaws of what is locked; fails where it has no answer
audit:
	python3 -m venv $(VENV)-audit
	$(VENV)-audit/bin/pip install --quiet pip-audit
	$(VENV)-audit/bin/pip-audit -r requirements.lock --disable-pip --require-hashes --strict

chromium:
	sh tools/get-chromium.sh

test: setup-dev chromium
	$(VENV)/bin/ruff format --check .
	$(VENV)/bin/ruff check .
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports
	$(PY) -m pytest -n 2 --ignore tests/browser
	$(PY) -m pytest -n 2 tests/browser

# The store, the pages and the main journeys on Debian's PostgreSQL, which is installed where missing
test-postgres: setup-dev chromium
	sh tools/postgres.sh $(PY) -m pytest -n 2 tests/store tests/web tests/browser/test_journey.py

# What takes how long on both databases, side by side
databases: setup-dev
	FSYNC=on sh tools/postgres.sh $(PY) tools/databases.py

# Twenty people and ten instruments for an hour; shorter with MINUTES=5
soak: setup-dev
	$(PY) tools/soak.py --minutes $(or $(MINUTES),60)

styles:
	npm install --no-save --ignore-scripts
	npx @tailwindcss/cli -i styles/fairline.css -o fairline/web/static/style.css --minify

hands: setup-dev chromium
	$(PY) -m tools.hands

screenshots: setup-dev chromium
	$(PY) tools/screenshots.py

bench: setup-dev
	$(PY) tools/bench.py

# make figures AGAINST=COMMIT measures that commit too, in turns with this checkout
figures: setup-dev
	$(PY) tools/figures.py $(if $(AGAINST),--against $(AGAINST))

# how plain the house is, as numbers; AGAINST=COMMIT counts that commit beside this checkout
house: setup-dev
	$(PY) tools/house.py $(if $(AGAINST),--against $(AGAINST))

# ends with the audit, which needs an index that knows of flaws
attack: setup-dev
	$(PY) -m tools.attack
	$(MAKE) audit

mutants: setup-dev
	$(PY) tools/mutants.py

format: setup-dev
	$(VENV)/bin/ruff format .
	$(VENV)/bin/ruff check --fix .

lock: $(VENV)/bin/python
	sh tools/lock.sh
