# One door to the project: each target sets up what it needs by itself.
VENV := .venv
PY := $(VENV)/bin/python
SOURCES := pyproject.toml constraints.txt tools/setup.sh

.PHONY: setup setup-run demo test quick lint sweeps fuzz soak mutants bench cast screenshots validate
setup: $(VENV)/.dev
	@$(PY) -m compileall -q src  # machines that write no bytecode while running would compile everything at each start

setup-run: $(VENV)/.run
	@$(PY) -m compileall -q src

$(VENV)/.run: $(SOURCES)
	bash tools/setup.sh run
	touch $@

$(VENV)/.dev: $(SOURCES)
	bash tools/setup.sh dev
	touch $@ $(VENV)/.run

demo: setup-run
	bash tools/with_display.sh $(VENV)/bin/bovrin demo $(ARGS)

lint: setup
	$(VENV)/bin/ruff check .
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports --no-cache

PYTEST := bash tools/with_display.sh $(PY) -m pytest -n 2
# The core's tests run where Qt cannot be imported; only those of the window have it.
CORE := --ignore=tests/desk --ignore=tests/real -p no:pytest-qt -p tests.no_qt -W ignore::pytest.PytestConfigWarning
NO_SWEEPS := -m "not sweep"

test: lint
	$(PYTEST) $(CORE) $(NO_SWEEPS) $(ARGS)
	$(PYTEST) tests/desk tests/real $(NO_SWEEPS) $(ARGS)

# What the changed files touch, by folder.
quick: setup
	$(PYTEST) $(NO_SWEEPS) -x $$($(PY) -m tools.touched) $(ARGS)

sweeps: setup
	$(PYTEST) -m sweep $(ARGS)
	EXAMPLES=200 $(PYTEST) $(CORE) $(NO_SWEEPS) $(ARGS)

# Damaged files for every reader, for so long.
fuzz: setup
	$(PY) -m tools.fuzz.run --minutes $(or $(MINUTES),10) --keep build/fuzz

# An animator's work for so long, and whether anything grows.
soak: setup
	bash tools/with_display.sh $(PY) -m tools.soak --minutes $(or $(MINUTES),20) $(ARGS)

# Small faults in a sample of modules, one at a time, and which of them no test notices.
mutants: setup
	$(PY) -m tools.mutants --count $(or $(COUNT),40) $(ARGS)

bench: sweeps
	bash tools/with_display.sh $(PY) -m benchmarks.run $(ARGS)

cast: setup
	$(PY) -m tools.cast.build

screenshots: setup
	bash tools/with_display.sh $(PY) -m tools.screenshots

# Needs Node.js: an independent validator looks at what is written as glTF.
validate: setup
	rm -rf build/validate && mkdir -p build/validate
	cp tools/validate/package.json tools/validate/validate.js build/validate/
	cd build/validate && npm install --silent --no-audit --no-fund
	bash tools/with_display.sh $(PY) -m tools.validate.samples build/validate/files > build/validate/list
	cd build/validate && tr '\n' '\0' < list | sed -z 's|^build/validate/||' | xargs -0 node validate.js
