# Everything that is done with the project, by name. Each target sets up what it needs first.
.PHONY: help setup demo test check bench bench-quick fuzz choices wander kill playing siege sizes screenshots specs-table lock clean

PYTHON := .venv/bin/python

help:
	@echo "make demo         start the window with the demo job (without a screen: deliver it)"
	@echo "make test         run every test"
	@echo "make check        formatting, lint, types, layers"
	@echo "make bench        measure against bare loops over the same libraries"
	@echo "make bench-quick  the same in under two minutes, while working"
	@echo "make fuzz         take 2000 damaged and hostile files, jobs and movies, in processes of their own"
	@echo "make choices      deliver 1000 reels that chance puts together: sealed, or refused for a good reason"
	@echo "make wander       a hand that does whatever there is in the window: nothing raises, all is undone"
	@echo "make kill         end or halt 400 deliveries at random moments and look at what is left"
	@echo "make playing      ten minutes of playing: in step with the clock, memory stays"
	@echo "make siege        hostile folders, caches, clusters and jobs: nothing is obeyed, nothing falls"
	@echo "make sizes        one frame of the smallest and the largest sizes in every codec"
	@echo "make screenshots  draw docs/screenshots/ again from the demo"
	@echo "make specs-table  write the guide's table of specs again from their files"
	@echo "make lock         resolve what pyproject.toml depends on again"

setup: .venv/.ready

.venv/.ready: scripts/setup.sh requirements/lock.txt requirements/bootstrap.txt pyproject.toml
	@bash scripts/setup.sh

demo: setup
	.venv/bin/waxseal demo

test: setup
	$(PYTHON) -m pytest -m "not alone" -n 2 --dist loadfile
	$(PYTHON) -m pytest -m alone

check: setup
	.venv/bin/ruff format --check .
	.venv/bin/ruff check .
	.venv/bin/mypy
	.venv/bin/lint-imports

bench: setup
	$(PYTHON) -m benchmarks

bench-quick: setup
	$(PYTHON) -m benchmarks --quick

fuzz: setup
	$(PYTHON) -m benchmarks.fuzz

choices: setup
	$(PYTHON) -m benchmarks.choices

wander: setup
	$(PYTHON) -m benchmarks.wander

kill: setup
	$(PYTHON) -m benchmarks.kill

playing: setup
	$(PYTHON) -m benchmarks.playing

siege: setup
	$(PYTHON) -m benchmarks.siege

sizes: setup
	$(PYTHON) -m benchmarks.sizes

screenshots: setup
	$(PYTHON) scripts/screenshots.py

specs-table: setup
	$(PYTHON) scripts/spec_table.py

lock: setup
	.venv/bin/uv pip compile --universal --python-version 3.11 --generate-hashes --quiet \
	  --custom-compile-command "make lock" requirements/bootstrap.in -o requirements/bootstrap.txt
	.venv/bin/uv pip compile --universal --python-version 3.11 --generate-hashes --quiet \
	  --custom-compile-command "make lock" --extra dev pyproject.toml -o requirements/lock.txt

clean:
	rm -rf .venv build .pytest_cache .mypy_cache .ruff_cache .import_linter_cache
