# Sorvan. `make demo` starts it, `make test` tests it; both set up whatever is missing.
SHELL := /bin/sh
PY := .venv/bin/python
WEB_SOURCES := $(shell find web/src web/public web/index.html web/*.ts web/*.js -type f 2>/dev/null | grep -v -e schema.d.ts -e facts.gen.ts)
API_SOURCES := $(shell find sorvan/core/change sorvan/core/model sorvan/core/recipes sorvan/service -name '*.py')

.PHONY: demo test steady quick check check-program check-page search bench setup system types build clean
.DEFAULT_GOAL := demo

demo: system build
	@.venv/bin/sorvan serve --demo $(if $(PORT),--port $(PORT))

# Of three at work on two cores one often waits, for a database or a worker. The browser's tests come by themselves:
# where a page is driven, nothing else has a loop of its own.
test: test-system build check
	$(PY) -m pytest -q -n 3 --dist worksteal --durations=20 tests --ignore tests/browser
	$(PY) -m pytest -q -n 2 --dist worksteal --durations=20 tests/browser

# Whether any of the browser's tests depends on how busy the machine is: six times, three of them beside busy loops.
steady: test-system build
	@tools/steady

# What needs no browser and no database, for the loop while working: properties with few draws.
quick: check
	SORVAN_QUICK=1 $(PY) -m pytest -q -n 2 --dist worksteal tests/core

check: setup types
	@$(MAKE) -s -j2 --output-sync=target check-program check-page

check-program:
	.venv/bin/ruff check sorvan tests bench
	.venv/bin/ruff format --check sorvan tests bench
	.venv/bin/mypy
	.venv/bin/lint-imports

check-page:
	cd web && npm run -s check

# What guards rare things, and properties on other draws, thousands of them: what it finds becomes an example. For hours
# that nobody waits for, as often as is wished.
search: test-system build
	for n in $$(seq $(or $(ROUNDS),1)); do \
	  SORVAN_SEARCH=1 SORVAN_KILLS=50 SORVAN_NASTY=1200 SORVAN_FUZZ=100 $(PY) -m pytest -q -n 2 --dist worksteal \
	    tests/core tests/interchange tests/store/test_nasty.py tests/service/test_kill.py tests/service/test_fuzz.py \
	    tests/browser/test_memory.py || exit 1; done

bench: test-system build
	$(PY) -m bench

setup: .venv/.ready web/node_modules/.ready

system:
	@tools/system-packages

test-system:
	@tools/system-packages test

.venv/.ready: pyproject.toml
	@tools/system-packages
	@python3 -m venv .venv
	@tools/fetch "Python libraries (about 870 MB)" .venv .venv/bin/pip install -qq --disable-pip-version-check -e '.[dev]'
	@touch $@

web/node_modules/.ready: web/package.json web/package-lock.json
# Not `npm ci`: a registry that lacks some other platform's build of a package would stop it.
	@cd web && ../tools/fetch "JavaScript libraries (about 300 MB)" node_modules npm install --no-save --no-audit --no-fund
	@touch $@

types: web/src/wire/schema.d.ts

web/src/wire/schema.d.ts: .venv/.ready web/node_modules/.ready $(API_SOURCES)
	@echo "Types of what page and service say to each other…"
	@$(PY) -m compileall -q sorvan
	@$(PY) -W ignore -m sorvan.service.openapi > web/api.json
	@cd web && node tools/types.mjs >/dev/null
	@touch $@

build: sorvan/page/.built

sorvan/page/.built: web/src/wire/schema.d.ts $(WEB_SOURCES)
	@echo "Building the page…"
	@cd web && node_modules/.bin/vite build --logLevel warn
	@touch $@

clean:
	-$(PY) -m sorvan.store.cluster stop .data
	rm -rf .venv web/node_modules sorvan/page .cache
