# Everything a person types. See the README.
SHELL := /bin/bash
.SHELLFLAGS := -euo pipefail -c
.PHONY: demo demo-reset test attack bench check install build types format pictures

web_files := $(shell find web/src web/public web/index.html web/vite.config.ts web/package-lock.json -type f 2>/dev/null)

demo: install build
	@scripts/demo

demo-reset: install
	@scripts/postgres wipe demo
	@$(MAKE) --no-print-directory demo

install:
	@scripts/install $(with)

build: server/dist/index.html
	@go build -o bin/plainpath ./cmd/plainpath

server/dist/index.html: $(web_files)
	@scripts/install
	@cd web && npm run --silent build -- --logLevel warn
	@touch $@

test: with = browser
test: install build
	@PLAINPATH_TEST_DATABASE="$$(scripts/postgres start test)" go test -timeout 45m ./...

bench: with = browser
bench: install build
	@PLAINPATH_TEST_DATABASE="$$(scripts/postgres start bench)" go run ./bench

# What the tests try for a moment, for long: many at once and a fuzzer at every door, on loopback.
attack: install
	@PLAINPATH_ATTACK="$${PLAINPATH_ATTACK:-10m}" PLAINPATH_TEST_DATABASE="$$(scripts/postgres start test)" go test -v -count=1 -timeout 60m -run 'TestEveryDoor' ./server

# Formatters, linters, generated types. core/ keeps clear of web and database by a test.
check: install build
	@test -z "$$(gofmt -l . | tee /dev/stderr)"
	@go vet ./...
	@go tool staticcheck ./...
	@go run ./cmd/plainpath types | diff -q - web/src/api/openapi.json >/dev/null || { echo "web/src/api is stale: run make types"; exit 1; }
	@go run ./cmd/plainpath words | diff -q - web/src/api/words.ts >/dev/null || { echo "web/src/api/words.ts is stale: run make types"; exit 1; }
	@cd web && cp src/api/schema.d.ts /tmp/schema.$$$$ && npm run --silent types >/dev/null && diff -q /tmp/schema.$$$$ src/api/schema.d.ts >/dev/null || { echo "web/src/api/schema.d.ts was stale and has been made anew: commit it"; exit 1; }
	@cd web && npm run --silent check

types:
	@go run ./cmd/plainpath types > web/src/api/openapi.json.new # kept whole where this fails
	@mv web/src/api/openapi.json.new web/src/api/openapi.json
	@go run ./cmd/plainpath words > web/src/api/words.ts.new
	@mv web/src/api/words.ts.new web/src/api/words.ts
	@cd web && npm run --silent types

format:
	@gofmt -w .
	@cd web && npm run --silent format

# The pictures in docs/screenshots, made from the demo.
pictures: with = browser
pictures: install build
	@PLAINPATH_TEST_DATABASE="$$(scripts/postgres start test)" PLAINPATH_PICTURES=$(CURDIR)/docs/screenshots go test -count=1 -run TestPictures ./e2e
