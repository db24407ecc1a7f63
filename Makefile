# Everything goes through these targets; the README names two of them.
SHELL := /bin/bash
export GOFLAGS := -mod=readonly
WEB := $(shell find web/src web/public web/index.html web/package.json web/vite.config.ts -type f 2>/dev/null)
GO_FILES := $(shell find cmd internal demo -name '*.go' -o -name '*.sql' -o -name '*.json' 2>/dev/null) go.mod go.sum

.PHONY: demo test build lint generate notices check-generated tools unit race fuzz bench clean

# demo builds the program, loads the made-up demo and serves it.
demo: build
	./bin/inklatch demo

# test is everything CI runs.
test: tools build lint check-generated unit

# tools installs what is missing from Debian's packages.
tools:
	@scripts/tools.sh

build: tools bin/inklatch

bin/inklatch: $(GO_FILES) internal/web/dist/index.html
	go build -trimpath -o bin/inklatch ./cmd/inklatch

web/node_modules/.package-lock.json: web/package-lock.json
	@# npm install and not npm ci: ci wants the packages of platforms in the lock
	@# file that some registries do not carry. The lock file still fixes versions.
	cd web && npm install --no-audit --no-fund --loglevel=error
	@touch $@

internal/web/dist/index.html: web/node_modules/.package-lock.json $(WEB)
	rm -rf internal/web/dist/assets
	cd web && npx vite build --logLevel warn
	@touch $@

lint: web/node_modules/.package-lock.json internal/web/dist/index.html
	@test -z "$$(gofmt -l cmd internal demo test)" || { gofmt -l cmd internal demo test; echo "these files are not formatted"; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	cd web && npx biome lint src && npx tsc --noEmit

generate: web/node_modules/.package-lock.json
	go run ./internal/web/contract/gen api/openapi.yaml
	go tool oapi-codegen -config api/codegen.yaml api/openapi.yaml
	cd web && npx openapi-typescript ../api/openapi.yaml -o src/api/schema.ts
	go run ./cmd/inklatch schema > docs/ink-latch-1.schema.json

# notices lists what the binary ships, with its licences.
notices: web/node_modules/.package-lock.json
	go run ./scripts/notices

# check-generated fails when a checked-in generated file is stale.
check-generated: web/node_modules/.package-lock.json internal/web/dist/index.html
	@scripts/check-generated.sh

unit: build
	cd web && npx vitest run --reporter=default
	go test -timeout 45m ./...

# race runs the races and the crashes as often as it takes to trust them: 300
# tries each, and the race detector on top. make test runs them shorter.
race: build
	INKLATCH_RACES=many go test -timeout 60m ./internal/desk -run 'StartsFrom|ReadAgain'
	INKLATCH_RACES=many go test -timeout 60m ./test -run 'NothingAcknowledged|AStop'
	go test -race -timeout 40m ./internal/desk ./internal/web ./internal/store

# fuzz gives every reader a minute.
fuzz:
	go test ./internal/core/unit -fuzz FuzzParse -fuzztime 60s
	go test ./internal/core/page/quickline -fuzz FuzzRead -fuzztime 60s
	go test ./internal/format/latchjson -fuzz FuzzDecode -fuzztime 60s
	go test ./internal/core/engine -fuzz FuzzApply -fuzztime 60s

bench:
	go test ./internal/core/... ./internal/desk/... ./internal/web/... -run XXX -bench . -benchmem -cpu 1

clean:
	rm -rf bin web/node_modules internal/web/dist/assets internal/web/dist/index.html
