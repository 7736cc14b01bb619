# Two commands do everything on a fresh Debian machine with Go and Node:
#   make demo   install what is missing, build, seed the demo, serve it
#   make test   install what is missing, check and test everything

# The driver uses Debian's SQLite: a minute's build instead of five.
export GOFLAGS := -tags=libsqlite3 -buildvcs=false
export CGO_ENABLED := 1

# Vector instructions, where this Go has them for this machine; without them
# the same pictures take longer.
export GOEXPERIMENT := $(shell GOEXPERIMENT=simd go list simd/archsimd >/dev/null 2>&1 && echo simd)

DATA ?= $(HOME)/.local/share/ivypocket
ADDR ?= 127.0.0.1:8420

RUNTIME  := ffmpeg librsvg2-bin webp libavif-bin woff2 util-linux
BUILDING := gcc libc6-dev pkg-config libsqlite3-dev libturbojpeg0-dev liblcms2-dev
TESTING  := chromium libjpeg-turbo-progs

WEB := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/tsconfig.json web/package.json

.PHONY: demo serve build test lint reference bench soak load fuzz shots api clean need
demo: build
	./bin/ivypocket --data "$(DATA)" demo --addr $(ADDR)

serve: build
	./bin/ivypocket --data "$(DATA)" serve --addr $(ADDR)

need:
	@./scripts/need $(RUNTIME) $(BUILDING)
	@node -e 'const [a, b] = process.versions.node.split(".").map(Number); if (a < 20 || (a === 20 && b < 19)) { console.error("Node 20.19 or newer is needed; this is " + process.version); process.exit(1) }'

build: need web/dist/index.html
	go build -o bin/ivypocket ./cmd/ivypocket

web/node_modules/.installed: web/package-lock.json web/package.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.installed $(WEB)
	cd web && npm run --silent build
	@touch $@

# The front end's types are made from the server's own description of its API.
api: need
	go run ./cmd/ivypocket openapi > web/src/api/openapi.json
	cd web && npm run --silent api

# The tables of members in the page on the format, from the rows of the program,
# and the page of keys, from the table of commands.
reference: need web/dist/index.html
	@for p in format api; do go run ./cmd/ivypocket reference docs/$$p.md > docs/.$$p.md && mv docs/.$$p.md docs/$$p.md; done
	@cd web && npm run --silent keys > ../docs/.keys.md && mv ../docs/.keys.md ../docs/keys.md

lint: need web/dist/index.html
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { echo "Not formatted:"; gofmt -l $$(git ls-files '*.go'); exit 1; }
	go vet ./...
	GOEXPERIMENT=nosimd go vet ./core/raster
	cd web && npm run --silent check
	@go run ./cmd/ivypocket openapi | cmp -s - web/src/api/openapi.json || { echo "web/src/api is not what the server says; run: make api"; exit 1; }
	@for p in format api; do go run ./cmd/ivypocket reference docs/$$p.md | cmp -s - docs/$$p.md || { echo "docs/$$p.md is not what the program says; run: make reference"; exit 1; }; done
	@cd web && npm run --silent keys | cmp -s - ../docs/keys.md || { echo "docs/keys.md is not what the table of commands says; run: make reference"; exit 1; }

# The browser's tests come last and alone: playing without a dropped frame is
# not to be asked of a machine that is busy with other tests.
test: need web/dist/index.html
	@./scripts/need $(TESTING)
	@$(MAKE) --no-print-directory lint
	go test -timeout 20m $$(go list ./... | grep -v '/e2e$$')
	go test -timeout 40m ./e2e

bench: need web/dist/index.html
	go test ./bench ./core/... -run '^$$' -bench . -benchtime 3s
	go test ./e2e -run '^$$' -bench . -benchtime 1x

# Ten minutes of mixed load, kills and full disks on a scratch folder.
SOAK ?= 10m
soak: build
	go run ./bench/soak -program bin/ivypocket -for $(SOAK)

# Everything at once, and how long answers take.
LOAD ?= 4m
load: build
	go run ./bench/soak -program bin/ivypocket -load -for $(LOAD)

# Every fuzz target for a while. Making inputs smaller is cut short, so that the
# time goes into finding them.
FUZZ ?= 60s
fuzz: need web/dist/index.html
	@set -e; for p in $$(go list -f '{{if or .TestGoFiles .XTestGoFiles}}{{.ImportPath}}{{end}}' ./core/... ./media/...); do \
		for f in $$(go test $$p -list '^Fuzz' | grep '^Fuzz' || true); do \
			echo "$$p $$f"; go test $$p -run '^$$' -fuzz "^$$f\$$" -fuzztime $(FUZZ) -fuzzminimizetime 5s; \
		done; done

# The pictures in docs/screenshots, taken anew from the demo.
shots: build
	@./scripts/need $(TESTING)
	go run ./e2e/shots docs/screenshots

clean:
	rm -rf bin web/dist/assets web/dist/index.html
