# One door to the project: each target sets up what it needs by itself.
VENV := .venv
PY := $(VENV)/bin/python
STAMP := $(VENV)/.ready

.PHONY: setup demo test quick lint bench cast screenshots validate
setup: $(STAMP)
	@$(PY) -m compileall -q src  # machines that write no bytecode while running would compile everything at each start

$(STAMP): pyproject.toml constraints.txt tools/setup.sh
	bash tools/setup.sh
	touch $(STAMP)

demo: setup
	bash tools/with_display.sh $(VENV)/bin/bovrin demo $(ARGS)

lint: setup
	$(VENV)/bin/ruff check .
	$(VENV)/bin/mypy
	$(VENV)/bin/lint-imports --no-cache

test: lint
	bash tools/with_display.sh $(PY) -m pytest -n 2 $(ARGS)

quick: setup
	bash tools/with_display.sh $(PY) -m pytest -n 2 -x $(ARGS)

bench: setup
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
