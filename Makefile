# make demo and make test do all the set-up on a fresh machine with Go, a C
# compiler, Node and apt.

SHELL := /bin/bash
ADDR ?= 127.0.0.1:7878

.PHONY: blind demo build generate front train test quick test-go test-front test-long lint e2e bench shots fuzz build-tools test-tools clean

# npm install rather than npm ci: a registry may lack the builds of optional
# tools for other platforms, which ci takes for a broken lock file. The lock
# file is obeyed and, with --no-save, never written.

# The application with the demo's projects; prints its address.
demo: build
	bin/jubrak demo --addr $(ADDR)

# Installs Debian packages where they are missing.
define install
sudo=""; [ "$$(id -u)" = 0 ] || sudo=sudo; \
$$sudo apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$sudo apt-get install -y -qq -o DPkg::Lock::Timeout=300
endef

# What the program is built with beside Go and Node: the libraries that decode
# MP3 and FLAC.
build-tools:
	@printf '#include <mpg123.h>\n#include <FLAC/stream_decoder.h>\n' | $${CC:-cc} -E - >/dev/null 2>&1 || { $(install) libmpg123-dev libflac-dev; }

# bin/jubrak, the front end inside.
build: front build-tools
	go build -o bin/jubrak ./cmd/jubrak

front: web/node_modules/.package-lock.json
	cd web && npm run --silent build

web/node_modules/.package-lock.json: web/package-lock.json
	cd web && npm install --no-save --no-audit --no-fund
	touch $@

e2e/node_modules/.package-lock.json: e2e/package-lock.json
	cd e2e && PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm install --no-save --no-audit --no-fund
	touch $@

# web/openapi.json from the routes, and the front end's types from that.
generate: build-tools web/node_modules/.package-lock.json
	go run ./app/api/gen
	cd web && npm run --silent types

# What the tests need beside Go and Node: browsers, a sound output that plays to nobody, and
# the peers that our output is checked against.
test-tools:
	@missing=""; \
	for pair in chromium:chromium firefox-esr:firefox-esr pulseaudio:pulseaudio ffmpeg:ffmpeg sox:sox flac:flac lame:lame; do \
	  command -v $${pair%%:*} >/dev/null || missing="$$missing $${pair##*:}"; done; \
	if [ -n "$$missing" ]; then $(install) $$missing libsox-fmt-all; fi

# What waits for a registry or a disk goes beside what computes.
test: test-tools build-tools
	$(MAKE) -j2 -O lint test-front e2e/node_modules/.package-lock.json
	$(MAKE) test-go
	$(MAKE) e2e

# What changes most, in half a minute, with nothing but Go and Node: sounds,
# grooves, the engine, the store, the front end's own tests.
QUICK := ./core/audio ./core/dsp ./core/engine ./core/groove ./core/effect ./core/music ./core/param ./core/sound ./core/synth ./app/jobs ./app/store ./internal/...
quick: web/node_modules/.package-lock.json
	go vet $(QUICK)
	go test -short $(QUICK)
	cd web && npm test --silent

lint: build-tools web/node_modules/.package-lock.json
	@test -z "$$(gofmt -l app cmd core demo fixtures internal web/*.go)" || (gofmt -l app cmd core demo fixtures internal web/*.go; exit 1)
	go vet ./...
	go tool staticcheck ./...
	cd web && npm run --silent types -- --check && npm run --silent check

# What does things at the same time is tested for races; the detector makes everything five
# times slower and finds nothing elsewhere. Of what listens and stores, the tests of
# writers, jobs and monitors at once.
RACED := ./app/jobs ./app/live ./app/store ./core/transcribe/drumnet
AT_ONCE := Cancel|Concurrent|ManyUploads|While|OneOfMany|SharedAndGivenUp|Stream

# Those whose tests under the race detector are the short ones; they are tested whole.
WHOLE := ./core/format ./app/service ./app/api ./app/live

# Seeds of fuzz tests are run like any test; make fuzz goes on from there.
test-go: build-tools
	go test -race -short $(RACED)
	go test -race -run '$(AT_ONCE)' ./app/service ./app/api ./core/transcribe
	JUBRAK_PEERS=1 go test $(WHOLE)
	JUBRAK_PEERS=1 go test -short $$(go list ./... | grep -vxF "$$(go list $(RACED) $(WHOLE))")

test-front: web/node_modules/.package-lock.json
	cd web && npm test --silent

e2e: build e2e/node_modules/.package-lock.json
	cd e2e && npm run --silent check && npx playwright test

# All that make test leaves out, too: whole tables, and walks that take minutes.
test-long: test-tools build-tools
	JUBRAK_PEERS=1 go test -timeout 60m ./...
	JUBRAK_LONG=1 $(MAKE) e2e

# Accuracy and speed; the figures in docs/listening.md, docs/engine.md and docs/live.md.
bench: build-tools
	go run ./fixtures/bench -plots docs/plots
	go run ./fixtures/speed
	$(MAKE) build e2e/node_modules/.package-lock.json
	cd e2e && node measure.mjs && node measure-live.mjs && node measure-arrange.mjs
	GOMAXPROCS=1 go test -run '^$$' -bench . -cpu 1 ./core/engine ./core/effect ./core/synth ./core/transcribe ./core/dsp ./core/mixreport
	go test -run '^$$' -bench EditOfAPiece ./core/project
	go test -run '^$$' -bench WildEdits -benchtime 11250x ./core/engine
	go test -run '^$$' -bench Edit8000 -benchtime 300x -count 5 ./app/api

# Writes pairs in hidden order, the reference's drums and the rebuilt, for a person to judge.
blind:
	go run ./fixtures/rebuilds/blind -out blind

# Makes the listener's networks anew, from nothing, in about an hour and a half: needs
# fluidsynth, lame and five free sound banks (see fixtures/train).
CACHE ?= $(or $(TMPDIR),/tmp)/jubrak-kits
train: build-tools
	GOEXPERIMENT=simd go run ./fixtures/train -cache $(CACHE)
	GOEXPERIMENT=simd go run ./fixtures/train -what coarse -cache $(CACHE) -recordings 4000 -epochs 10 -vary 0.5
	GOEXPERIMENT=simd go run ./fixtures/train -what far -cache $(CACHE) -recordings 3000 -epochs 3
	go run ./fixtures/train -what grid -recordings 6000 -epochs 10
	GOEXPERIMENT=simd go run ./fixtures/train -what context -cache $(CACHE) -recordings 1000 -epochs 20
	GOEXPERIMENT=simd go run ./fixtures/train -what times -cache $(CACHE) -recordings 1500 -epochs 50
	GOEXPERIMENT=simd go run ./fixtures/train -what levels -cache $(CACHE) -recordings 1200 -epochs 48
	go run ./fixtures/train -what share -cache $(CACHE) -recordings 500
	go run ./fixtures/train -what confidence -cache $(CACHE) -recordings 700 -vary 0.2

# What meets files and messages of others, a minute each.
FUZZED := ./core/transcribe:FuzzListener ./core/transcribe:FuzzPerformance \
	./core/format:FuzzReadWAV ./core/format:FuzzReadAIFF ./core/format:FuzzReadFLAC ./core/format:FuzzReadMP3 ./core/format:FuzzReadMIDI ./core/format:FuzzReadArchive \
	./core/project:FuzzDocument ./core/project:FuzzEdits ./core/profile:FuzzProfile ./app/live:FuzzMessage ./app/service:FuzzMapping
FUZZ_TIME ?= 60s
fuzz: build-tools
	for f in $(FUZZED); do go test -run '^$$' -fuzzminimizetime 1x -fuzz $${f##*:} -fuzztime $(FUZZ_TIME) $${f%%:*} || exit 1; done

# Retakes docs/screenshots from the demo.
shots: build e2e/node_modules/.package-lock.json
	cd e2e && node shots.mjs ../docs/screenshots

clean:
	rm -rf bin web/node_modules e2e/node_modules e2e/test-results
