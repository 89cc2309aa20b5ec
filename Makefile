# Everything a newcomer needs: `make demo` and `make test`. Both set the machine up first.
PYTHON := .venv/bin/python

.PHONY: demo test quick check bench mutants house wheel deb oldest newest campaign campaign-long screenshots docs guide languages setup clean

setup: .venv/.ready .venv/.kernels

.venv/.ready: pyproject.toml setup.py tools/setup.sh
	sh tools/setup.sh tools

# What the program needs and no more.
.venv/.program: pyproject.toml setup.py tools/setup.sh
	sh tools/setup.sh program

# The inner loops, compiled for this machine: what has not changed is left alone.
.venv/.kernels: $(shell find src/kyanoscript/core -name '*.py') | .venv/.program
	$(PYTHON) -P tools/kernels.py
	@touch $@

demo: .venv/.program .venv/.kernels
	@if [ -n "$$DISPLAY$$WAYLAND_DISPLAY" ]; then $(PYTHON) -P -m kyanoscript --demo; \
	else QT_QPA_PLATFORM=offscreen $(PYTHON) -P -m kyanoscript --demo --picture kyanoscript-demo.png; fi

# Tests start many programs: what Python has compiled is kept, whatever the surroundings say.
unexport PYTHONDONTWRITEBYTECODE

test: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) -m pytest -n 2 --dist loadfile --no-loadscope-reorder

# What one runs at every change: all but what takes longest.
quick: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) -m pytest -n 2 --dist loadfile --no-loadscope-reorder -m "not slow"

# Whether the tests notice a change: 200 of them, about an hour and a half on two cores; goes on where it stopped.
# `tools/mutants.py --near --room ui/strip --count 15` asks the tests of one room alone.
mutants: setup
	$(PYTHON) tools/mutants.py --count 200

# The program as people get it: an environment made from the wheel alone, used by an ordinary user.
wheel: setup
	sh tools/wheel/wheel.sh

# A Debian package, looked over by lintian: build/deb/kyanoscript_VERSION_ARCH.deb
deb: setup
	sh tools/deb/deb.sh

# The tests with the oldest and the newest versions of everything that it is built on.
oldest newest: setup
	sh tools/versions.sh $@

# Of what only we run: names that are not there (any more), and calls that cannot be.
TYPES = MYPYPATH=../src:campaign ../$(PYTHON) -m mypy --config-file ../tools/types.ini

check: setup
	$(PYTHON) -m ruff check src tests bench tools
	$(PYTHON) -m ruff format --check src tests bench tools
	$(PYTHON) -m mypy
	cd tools && $(TYPES) *.py campaign/*.py wheel/*.py darkroom/*.py
	cd bench && $(TYPES) *.py
	.venv/bin/lint-imports --no-cache

bench: setup
	.venv/bin/pip install --quiet --disable-pip-version-check "pyvips[binary]>=3"
ifdef AGAINST
	QT_QPA_PLATFORM=offscreen $(PYTHON) bench/against.py $(AGAINST)
else
	QT_QPA_PLATFORM=offscreen $(PYTHON) bench/bench.py --json bench-results.json
endif

# Everything that must not happen, tried: about seven minutes, and about seventy on two cores.
house: setup
	$(PYTHON) -W ignore tools/house.py

campaign: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) -W ignore tools/campaign/run.py usual

campaign-long: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) -W ignore tools/campaign/run.py long --keep campaign-failures --json campaign-results.json

docs guide screenshots languages: export LANGUAGE = en

screenshots: setup
	QT_QPA_PLATFORM=offscreen $(PYTHON) tools/screenshots.py

docs: setup
	$(PYTHON) tools/reference.py
	$(PYTHON) tools/terminal_files.py
	$(PYTHON) tools/guide.py

# The guide's pages with their pictures
guide: docs
	QT_QPA_PLATFORM=offscreen $(PYTHON) tools/guide.py pictures

# Catalogues of German and French, brought up to date with the source
languages: setup
	$(PYTHON) tools/languages.py

clean:
	rm -rf .venv .versions build src/kyanoscript/core/kernel/ready kyanoscript-demo.png
