# make demo    set up, build, and serve with demo data on http://127.0.0.1:8470
# make test    set up what the tests need, and run them all
SHELL := /bin/bash
PYTHON ?= python3
BIN := .venv/bin
SUDO := $(shell [ "$$(id -u)" = 0 ] || echo sudo)
OMIT := --omit=dev
# What has been compiled once is kept, whatever the shell says: a start is twice as fast.
export PYTHONDONTWRITEBYTECODE :=
# One line a step; tools speak up only where something is wrong.
export npm_config_loglevel := error
export npm_config_update_notifier := false
WEB_SOURCES := $(shell find web -name node_modules -prune -o -type f -print) $(wildcard docs/guide/*.md docs/screenshots/*.png)

.PHONY: setup demo dev test check check-python check-web fix bench bench-archive bench-kills bench-centre bench-delivery bench-folder bench-intake bench-listening bench-lists bench-many learn api screenshots \
	unit coverage browser firefox sound web-at-low-priority web-test clean

# Both halves at once: each waits for the network, then for the processor.
setup:
	@$(MAKE) --no-print-directory -j2 .stamps/python .stamps/webapp

demo: setup
	@echo "Starting; the demo's files are made once"
	@$(BIN)/wedge-turn serve --demo

# The API reloads nothing by itself; the web does, on its own port, and asks the API through it.
dev: setup
	$(BIN)/wedge-turn serve --demo & trap 'kill %1' EXIT; cd web && npm run dev

# What runs: enough for the demo.
.stamps/venv: requirements.txt
	@mkdir -p .stamps
	@echo "Installing Python packages"
	@$(PYTHON) -m venv .venv || { $(SUDO) apt-get update -qq && $(SUDO) apt-get install -y -qq python3-venv && $(PYTHON) -m venv .venv; }
	@$(BIN)/python -m pip install -qq --disable-pip-version-check --root-user-action=ignore uv
	@$(BIN)/uv pip install --quiet -r requirements.txt
	@touch $@

# Modules and kernels are compiled here, so that nobody waits for it later. What is imported of libraries is too.
.stamps/python: .stamps/venv pyproject.toml $(shell find src -name '*.py')
	@echo "Compiling modules and kernels"
	@$(BIN)/uv pip install --quiet --no-deps --editable .
	@$(BIN)/python -m compileall -q src
	@$(BIN)/python -m wedge_turn.core.warm
	@touch $@

# What tests and checks need besides.
.stamps/dev: .stamps/venv requirements-dev.txt
	@echo "Installing what tests and checks need"
	@$(BIN)/uv pip install --quiet -r requirements-dev.txt
	@touch $@

.stamps/node: web/package.json web/package-lock.json web/.npmrc
	@mkdir -p .stamps
	@echo "Installing web packages"
	@cd web && npm ci $(OMIT) --no-fund --no-audit >/dev/null
	@touch $@

.stamps/node-dev: .stamps/node
	@echo "Installing what web tests and checks need"
	@[ -x web/node_modules/.bin/vitest ] || { cd web && npm install --include=dev --no-save --no-fund --no-audit >/dev/null; }
	@touch $@

# An install moves files that a build beside it reads, so where tests are set up the build waits.
ifeq ($(OMIT),)
.stamps/webapp: | .stamps/node-dev
endif

.stamps/webapp: .stamps/node $(WEB_SOURCES)
	@echo "Building the web interface"
	@cd web && npx --no-install vite build --logLevel error
	@touch $@

# The demo's files take a while to make: all tests share them, and the data folder that the first one makes of them.
.stamps/demo-files: .stamps/python
	rm -rf build/demo-files build/demo-data*
	$(BIN)/wedge-turn demo build/demo-files >/dev/null
	@touch $@

# Chromium without windows, which takes a fifth less processor time for the same pages.
.stamps/chromium:
	@mkdir -p .stamps
	[ -x /usr/bin/chromium-headless-shell ] || { $(SUDO) apt-get update -q && \
		$(SUDO) apt-get install -y -q --no-install-recommends chromium-headless-shell; }
	@touch $@

.stamps/recordings: tests/fetch_recordings.sh
	tests/fetch_recordings.sh build/recordings
	@touch $@

# Set up, check and test side by side, each as soon as it can; then the browser has the machine to itself. The tests that
# record sound play it in real time and leave a core free: the web is tested and checked beside them.
test:
	@rm -f build/only-alone
	@$(MAKE) --no-print-directory -j5 -Otarget OMIT= unit check-python .stamps/node-dev .stamps/webapp .stamps/chromium
	@$(MAKE) --no-print-directory browser
	@$(MAKE) --no-print-directory -j2 -Otarget sound web-at-low-priority
	@[ ! -s build/only-alone ] || { echo "Passed only when run again alone, which is a fault of the test:"; cat build/only-alone; }

unit: .stamps/python .stamps/dev .stamps/recordings .stamps/demo-files
	$(BIN)/pytest -n 2 --dist worksteal --ignore tests/browser

# Watching every line takes a third more time, so it is not part of `make test`.
coverage: .stamps/python .stamps/dev .stamps/recordings .stamps/demo-files
	$(BIN)/pytest -n 2 --dist worksteal --ignore tests/browser --cov --cov-report=
	$(BIN)/coverage report --fail-under=90

web-test: .stamps/node-dev
	cd web && npx --no-install vitest run

web-at-low-priority:
	@nice -n 19 $(MAKE) --no-print-directory web-test check-web

# What fails beside other tests on a busy machine is run once more by itself: what fails then too is a fault, and what
# passes is named at the end of `make test`.
ALONE = [ $$? -eq 1 ] && { grep -o '"tests[^"]*"' .pytest_cache/v/cache/lastfailed >> build/only-alone || true; } && \
	$(BIN)/pytest --last-failed --last-failed-no-failures none tests/browser
browser: setup .stamps/dev .stamps/node-dev .stamps/chromium .stamps/demo-files
	$(BIN)/pytest -n 2 --dist worksteal tests/browser -m "not sound" || { $(ALONE) -m "not sound"; }

# Firefox and a sound server for its test, which is left out where they are not.
firefox: .stamps/dev .stamps/webapp .stamps/demo-files
	$(SUDO) apt-get update -q && $(SUDO) apt-get install -y -q --no-install-recommends firefox-esr pulseaudio
	$(BIN)/pip install -q "marionette-driver>=3.7"
	$(BIN)/pytest tests/browser/test_firefox.py

sound: .stamps/python .stamps/webapp .stamps/dev .stamps/chromium .stamps/demo-files
	$(BIN)/pytest tests/browser -m sound || { $(ALONE) -m sound; }

check: check-python check-web

check-python: .stamps/python .stamps/dev
	$(BIN)/ruff format --check src tests bench tools
	$(BIN)/ruff check src tests bench tools
	$(BIN)/mypy
	$(BIN)/lint-imports

check-web: .stamps/node-dev build/openapi.json
	cd web && npx --no-install tsc --noEmit
	cd web && npx --no-install biome check --error-on-warnings src vite.config.ts vitest.config.ts
	cd web && npx --no-install depcruise src --config .dependency-cruiser.cjs
	cd web && npx --no-install openapi-typescript ../build/openapi.json -o ../build/schema.d.ts >/dev/null
	$(BIN)/python -m tools.generate accepts | diff -q - web/src/api/accepts.gen.ts && \
		$(BIN)/python -m tools.generate limits | diff -q - web/src/api/limits.gen.ts && \
		diff -q build/schema.d.ts web/src/api/schema.d.ts || { echo "The API's types have changed: run make api"; exit 1; }

fix: .stamps/dev .stamps/node-dev
	$(BIN)/ruff format src tests bench tools
	$(BIN)/ruff check --fix src tests bench tools
	cd web && npx --no-install biome check --write src vite.config.ts vitest.config.ts

build/openapi.json: $(shell find src tools -name '*.py') .stamps/python
	@mkdir -p build
	$(BIN)/python -m tools.generate api > $@

# What is generated from the code and kept beside it: types of the API, documentation of the turns, schemas of files.
api: build/openapi.json .stamps/node-dev
	cd web && npx --no-install openapi-typescript ../build/openapi.json -o src/api/schema.d.ts
	$(BIN)/python -m tools.generate accepts > web/src/api/accepts.gen.ts
	$(BIN)/python -m tools.generate limits > web/src/api/limits.gen.ts
	$(BIN)/python -m tools.generate turns > docs/turns.md
	$(BIN)/python -m tools.generate recipe > docs/recipe.schema.json
	$(BIN)/python -m tools.generate manifest > docs/manifest.schema.json

bench: setup .stamps/dev
	$(BIN)/python -m bench

# How long a setting takes to be heard, and what live pictures cost, in the browser.
bench-listening: setup .stamps/dev .stamps/chromium
	$(BIN)/python -m bench.listening

# The sound of a long movie: how fast it is taken in.
bench-intake: setup .stamps/dev
	$(BIN)/python -m bench.intake

# A whole folder by `prep` on one core and on all, and from the drop to its delivery in the browser.
bench-folder: setup .stamps/dev .stamps/chromium
	$(BIN)/python -m bench.folder

# A hundred files split on one core and on two, and fetched as a ZIP of more than 4 GiB.
bench-delivery: setup .stamps/dev
	$(BIN)/python -m bench.delivery

# `prep` over 20,000 small files: memory, going on, processes, a cluster.
bench-archive: setup .stamps/dev
	$(BIN)/python -m bench.archive

# A server killed KILLS times while it works: nothing that was answered may be lost.
bench-kills: setup .stamps/dev
	$(BIN)/python -m bench.kills $(or $(KILLS),50)

# A server with much in it at rest, and one with many listeners.
bench-many: setup .stamps/dev
	$(BIN)/python -m bench.many

# A job of many files and turns in the browser: opening it, keys in its lists, a page at rest.
bench-lists: setup .stamps/dev .stamps/chromium
	$(BIN)/python -m bench.lists

# How well a voice and the centre are told from the rest, on mixes whose parts are known; writes docs/centre.md.
bench-centre: setup .stamps/dev .stamps/synths
	$(BIN)/python -m bench.centre

# Teaches the voice mask: fetches sounds, makes songs (an hour on two cores), goes on from the weights that are there
# for MINUTES; with ANEW=--anew from chance.
learn: setup .stamps/dev .stamps/synths .stamps/learn
	$(BIN)/python -m bench.learn --minutes $(or $(MINUTES),75) $(ANEW)

.stamps/synths:
	@mkdir -p .stamps
	$(SUDO) apt-get update -q && $(SUDO) apt-get install -y -q --no-install-recommends espeak-ng libfluidsynth3
	@touch $@

.stamps/learn: .stamps/dev requirements-learn.txt
	$(BIN)/pip install -q -r requirements-learn.txt
	@touch $@

screenshots: setup .stamps/dev .stamps/chromium
	$(BIN)/python tools/take_screenshots.py

# Versions of what runs are locked apart from those of what tests, and are the same in both.
requirements.txt: pyproject.toml
	[ ! -x $(BIN)/uv ] || $(BIN)/uv pip compile --quiet --no-header --no-annotate --python-version 3.11 --extra media pyproject.toml -o $@
	@touch $@

requirements-dev.txt: pyproject.toml requirements.txt
	[ ! -x $(BIN)/uv ] || $(BIN)/uv pip compile --quiet --no-header --no-annotate --python-version 3.11 --all-extras \
		--constraint requirements.txt pyproject.toml -o $@
	@touch $@

clean:
	rm -rf .venv .stamps build web/node_modules src/wedge_turn/webapp
