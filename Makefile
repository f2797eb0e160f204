# Two commands from a fresh clone do all set-up: `make demo` and `make test`.
PYTHON ?= python3
RUN = .venv
DEV = .venv-dev
STICK = .venv-stick

.PHONY: demo test faults bench lint format screenshots schemas manual stick clean

demo: $(RUN)/ready
	rm -rf demo
	$(RUN)/bin/zesty demo demo

test: $(DEV)/ready
	$(DEV)/bin/python -m pytest -n 3 --dist worksteal

# Killed 1,200 times at random, and at every single change; takes most of an hour.
faults: $(DEV)/ready
	ZESTY_KILLS=200 ZESTY_STORM=1000 $(DEV)/bin/python -m pytest -n 2 tests/moving/test_storm.py tests/moving/test_faults.py \
		tests/moving/test_killed.py tests/crate/test_parts.py tests/truth/test_drawn_moves.py tests/truth/test_begun_and_killed.py \
		tests/machines/test_hives.py tests/merge/test_text_drawn.py

# All figures in one table, against their aims; SIZE=0.1 takes minutes, all of it most of an hour and 15 GB.
SIZE ?= 1
bench: $(DEV)/ready
	$(DEV)/bin/python -m benchmarks bench --size $(SIZE)

lint: $(DEV)/ready
	$(DEV)/bin/ruff format --check
	$(DEV)/bin/ruff check
	$(DEV)/bin/mypy
	$(DEV)/bin/mypy --platform win32 src
	$(DEV)/bin/mypy --platform darwin src
	$(DEV)/bin/lint-imports

format: $(DEV)/ready
	$(DEV)/bin/ruff format
	$(DEV)/bin/ruff check --fix

schemas: $(DEV)/ready
	$(DEV)/bin/python docs/make_schemas.py

manual: $(DEV)/ready
	$(DEV)/bin/python docs/make_manual.py

screenshots: $(DEV)/ready
	$(DEV)/bin/python docs/make_screenshots.py

# The program with its Python in one folder, dist/zesty, for a stick: it needs nothing on the computer where it runs.
stick: $(STICK)/ready
	$(STICK)/bin/python packaging/build_stick.py

$(STICK)/ready: requirements/build.txt requirements/run.txt requirements/stick.txt
	$(PYTHON) -m venv $(STICK)
	$(STICK)/bin/python -m pip install --quiet --disable-pip-version-check -r requirements/build.txt -r requirements/run.txt -r requirements/stick.txt
	touch $@

clean:
	rm -rf $(RUN) $(DEV) $(STICK) demo bench dist build

$(RUN)/ready: pyproject.toml requirements/build.txt requirements/run.txt
	$(PYTHON) -m venv $(RUN)
	$(RUN)/bin/python -m pip install --quiet --disable-pip-version-check --no-compile -r requirements/build.txt -r requirements/run.txt
	$(RUN)/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
	touch $@

$(DEV)/ready: pyproject.toml requirements/build.txt requirements/run.txt requirements/dev.txt
	$(PYTHON) -m venv $(DEV)
	$(DEV)/bin/python -m pip install --quiet --disable-pip-version-check --no-compile -r requirements/build.txt -r requirements/run.txt -r requirements/dev.txt
	$(DEV)/bin/python -m pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation --editable .
	touch $@
