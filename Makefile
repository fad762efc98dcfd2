PY := .venv/bin/python
export PYTHONPATH := src

.PHONY: setup test test-all lint screenshots bench accuracy keep crash fuzz walk demo-data demo-film lock

setup:
	@tools/setup develop
	@tools/libraries .venv/jete.libraries
	@tools/test-tools

test: setup
	$(PY) -m pytest -n auto --dist loadfile --quick

test-all: setup
	$(PY) -m pytest -n auto --dist loadfile

lint: setup
	$(PY) -m ruff check .
	$(PY) -m ruff format --check .
	$(PY) -m mypy
	.venv/bin/lint-imports

screenshots: setup
	$(PY) tools/screenshots.py docs/screenshots

bench: setup
	$(PY) benchmarks/speed.py
	$(PY) benchmarks/library.py

accuracy: setup
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/accuracy.py --pairs 200 --first 15001 --out docs/accuracy.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/feet.py --pairs 200 --first 2001 --out docs/accuracy-feet.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/lines.py --pairs 200 --first 7001 --out docs/accuracy-lines.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/receivers.py --pairs 200 --first 9001 --out docs/accuracy-receivers.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/sensors.py --pairs 200 --first 10001 --out docs/accuracy-sensors.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/clocks.py --pairs 200 --first 12001 --out docs/accuracy-clocks.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/what_if.py --circuits 24 --first 6001 --out docs/accuracy-what-if.md
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/review.py --out docs/accuracy-review.md

keep: setup
	OPENBLAS_NUM_THREADS=1 $(PY) benchmarks/keep.py --pairs 25 --out docs/what-rules-earn.md

crash: setup
	$(PY) tools/crash.py --rounds 200

fuzz: setup
	$(PY) tools/fuzz.py --cases 5000

walk: setup
	$(PY) tools/walk.py --minutes 10

demo-data: setup
	$(PY) -m jete.simulate.demo src/jete/app/assets/demo

demo-film: setup
	$(PY) tools/demo_film.py src/jete/app/assets/demo

# Needs uv; writes the lock files with hashes and without addresses.
lock:
	uv pip compile -q --universal --python-version 3.11 --generate-hashes --no-emit-index-url --no-header requirements.in -o requirements.lock
	uv pip compile -q --universal --python-version 3.11 --generate-hashes --no-emit-index-url --no-header requirements-dev.in -o requirements-dev.lock
