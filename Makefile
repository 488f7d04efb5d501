# Sorvan. `make demo` starts it, `make test` tests it; both set up whatever is missing.
SHELL := /bin/sh
PY := .venv/bin/python
WEB_SOURCES := $(shell find web/src web/public web/index.html web/*.ts web/*.js -type f 2>/dev/null | grep -v schema.d.ts)
API_SOURCES := $(shell find sorvan/core/change sorvan/core/model sorvan/service -name '*.py')

.PHONY: demo test check search bench setup system types build clean
.DEFAULT_GOAL := demo

demo: system build
	@.venv/bin/sorvan serve --demo --page web/dist $(if $(PORT),--port $(PORT))

test: test-system build check
	$(PY) -m pytest -q -n 2 --dist loadfile tests --ignore tests/browser
# One browser at a time: two of them with their services starve each other on two cores. What fails on a busy machine is
# done once more, and is listed.
	$(PY) -m pytest -q --reruns 1 -rR tests/browser

check: setup types
	.venv/bin/ruff check sorvan tests bench
	.venv/bin/ruff format --check sorvan tests bench
	.venv/bin/mypy
	.venv/bin/lint-imports
	cd web && npm run -s check

# The properties on other draws than those of `make test`, as often as is wished: what it finds becomes an example.
search: setup
	for n in $$(seq $(or $(ROUNDS),3)); do SORVAN_SEARCH=1 $(PY) -m pytest -q -n auto tests/core || exit 1; done

bench: test-system build
	$(PY) -m bench

setup: .venv/.ready web/node_modules/.ready

system:
	@tools/system-packages

test-system:
	@tools/system-packages test

.venv/.ready: pyproject.toml
	@tools/system-packages
	python3 -m venv .venv
	.venv/bin/pip install -q --disable-pip-version-check -e '.[dev]'
	@touch $@

web/node_modules/.ready: web/package.json web/package-lock.json
# Not `npm ci`: a registry that lacks some other platform's build of a package would stop it.
	cd web && npm install --no-save --silent --no-audit --no-fund
	@touch $@

types: web/src/wire/schema.d.ts

web/src/wire/schema.d.ts: .venv/.ready web/node_modules/.ready $(API_SOURCES)
	$(PY) -m sorvan.service.openapi > web/api.json
	cd web && npm run -s types >/dev/null
	@touch $@

build: web/dist/.built

web/dist/.built: web/src/wire/schema.d.ts $(WEB_SOURCES)
	cd web && npm run -s build -- --logLevel warn
	@touch $@

clean:
	-$(PY) -m sorvan.store.cluster stop .data
	rm -rf .venv web/node_modules web/dist .cache
