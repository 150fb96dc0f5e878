# Everything a fresh machine needs is set up by the first target that needs it.

VENV := .venv
PY := $(VENV)/bin/python
STAMP := $(VENV)/.ready
PYTHON ?= python3
# where it is set, each of hundreds of processes would compile all modules anew
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo hashes test lint bench fuzz coverage mutants shots schema package deb clean setup

setup: $(STAMP)

$(STAMP): pyproject.toml constraints.txt setup.py $(wildcard src/gatillo/kernels/*.p*)
	tools/system-libraries "$(PYTHON)"
	tools/make-venv "$(PYTHON)" "$(VENV)"
	$(VENV)/bin/pip install --quiet --constraint constraints.txt --editable ".[desk,dev]"
	touch $(STAMP)

# make demo HASHES=1 installs only what constraints-hashed.txt lists, and only if it is that to the byte
HASHED := $(VENV)/.ready-hashed
$(HASHED): pyproject.toml constraints-hashed.txt setup.py $(wildcard src/gatillo/kernels/*.p*)
	tools/system-libraries "$(PYTHON)"
	tools/make-venv "$(PYTHON)" "$(VENV)"
	$(VENV)/bin/pip install --quiet --require-hashes --requirement constraints-hashed.txt
	$(VENV)/bin/pip install --quiet --no-deps --no-build-isolation --editable .
	touch $(HASHED)

demo: $(if $(HASHES),$(HASHED),$(STAMP))
	$(VENV)/bin/gatillo demo

# writes constraints-hashed.txt anew after constraints.txt has changed
hashes: $(STAMP)
	$(VENV)/bin/pip install --quiet --constraint constraints.txt --editable ".[hashes]"
	$(VENV)/bin/pip-compile --quiet --generate-hashes --allow-unsafe --no-header --no-annotate --strip-extras \
		--constraint constraints.txt --extra desk --extra kernels --output-file $(VENV)/hashed.txt pyproject.toml
	grep -v '^--' $(VENV)/hashed.txt > constraints-hashed.txt

# each file's tests in one process: they share what they have read and run
test: $(STAMP)
	tools/system-libraries --tests
	QT_QPA_PLATFORM=offscreen $(PY) -m pytest -n 2 --dist loadfile

coverage: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(PY) -m pytest -n 2 --dist loadfile --cov=src/gatillo --cov-branch --cov-report=term:skip-covered

lint: $(STAMP)
	$(VENV)/bin/ruff format --check .
	$(VENV)/bin/ruff check --no-cache .
	$(VENV)/bin/codespell src tests tools benchmarks docs README.md CHANGELOG.md
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports
	tools/audit $(VENV)

bench: $(STAMP)
	$(PY) -m benchmarks

# random files, formulas, edits, kills and presses for an hour; FUZZ="--seconds 60 --seed 7" for another time and seed
FUZZ ?= --seconds 3600
fuzz: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(PY) tools/fuzz.py $(FUZZ)

# small changes to the core, each run against the tests that reach it, for two hours; MUTANTS="--seconds 600 --seed 7"
MUTANTS ?= --seconds 7200
mutants: $(STAMP)
	$(VENV)/bin/pip install --quiet --constraint constraints.txt --editable ".[mutants]"
	$(PY) tools/mutants.py $(MUTANTS)

shots: $(STAMP)
	QT_QPA_PLATFORM=offscreen $(PY) tools/shots.py

schema: $(STAMP)
	$(PY) tools/touches.py
	$(PY) tools/follows.py
	$(VENV)/bin/gatillo schema > docs/level.schema.json
	$(VENV)/bin/gatillo schema --protocol > docs/protocol.schema.json
	$(VENV)/bin/gatillo catalogue > docs/catalogue.md
	$(PY) tools/floors.py

# in dist/ an sdist, a wheel with the compiled kernels where there is a compiler, and one for any machine;
# tools/try-package installs the wheels in environments of their own
package: $(STAMP)
	rm -rf dist
	$(PY) -m build --no-isolation --outdir dist .
	GATILLO_KERNELS=python $(PY) -m build --no-isolation --wheel --outdir dist .

# a Debian package in dist/, from wheels made anew; tools/try-package has lintian look at it, installs, starts and removes it
deb: package
	tools/system-libraries --deb
	tools/make-deb

clean:
	rm -rf dist $(VENV) .pytest_cache .mypy_cache .ruff_cache .hypothesis
