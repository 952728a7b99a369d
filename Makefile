# Now Then. `make demo` starts it with demo data, `make test` passes the tests, `make help` lists the rest.
.DEFAULT_GOAL := help
.PHONY: help setup setup-all chromium front build demo serve test test-all test-rest test-quick test-long warm check check-go check-web test-go test-race test-front test-e2e test-virtual test-windows vet-elsewhere soak bench bench-engine mutants screenshots fuzz dist probes clean

export CGO_ENABLED ?= 0
GO ?= go
NPM := npm --prefix web --no-fund --no-audit

help: ## list what can be made
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/:.*## /\t/' | expand -t 16

web/node_modules/.package-lock.json: web/package.json web/package-lock.json
	@command -v $(GO) >/dev/null || { echo "Go is needed (1.26 or later)." >&2; exit 1; }
	@command -v npm >/dev/null || { echo "Node.js with npm is needed (20 or later)." >&2; exit 1; }
	$(NPM) ci
	@touch $@

setup: web/node_modules/.package-lock.json chromium ## install what the front end and the browser tests need

setup-all: setup ## install what make test-all needs as well
	@sh scripts/chromium.sh all

chromium: ## install the distribution's Chromium and PDF reader if there are none
	@sh scripts/chromium.sh

FRONT := $(shell find web/src web/public web/index.html web/vite.config.ts -type f ! -name schema.d.ts 2>/dev/null) api/openapi.yaml

TYPES := web/src/api/schema.d.ts

$(TYPES): web/node_modules/.package-lock.json api/openapi.yaml
	$(NPM) run types

web/dist/index.html: web/node_modules/.package-lock.json $(FRONT)
	$(NPM) run build

front: web/dist/index.html ## build the front end

build: web/dist/index.html ## build the program into bin/
	$(GO) build -o bin/ ./cmd/... # the tests have compiled most of it

demo: build ## start it with made-up jobs on simulated computers, and say where
	@exec ./bin/nowthen demo

serve: build probes ## start it with your own data; the probes lie beside it
	@exec ./bin/nowthen serve

check: check-go check-web ## vet, static analysis, types and lint

check-go: web/dist/index.html
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { echo "gofmt would change:" >&2; gofmt -l $$(git ls-files '*.go') >&2; exit 1; }
	$(GO) vet ./...
	$(GO) vet -tags virtual ./e2e/virtual
	$(GO) vet -tags windowsbench ./e2e/windows
	$(GO) tool staticcheck ./...
	$(GO) tool exhaustive -default-signifies-exhaustive -ignore-enum-types "^reflect" ./...

check-web: $(TYPES)
	$(NPM) run check
	$(NPM) run lint
	$(NPM) run lint:api

test-front: $(TYPES) ## front-end tests
	$(NPM) test

# What the tests are made of is vetted once, by check. Links without debugging data take half the time.
TEST := $(GO) test -vet=off -ldflags=-w -timeout 30m

# Where several things go on at once, the tests run with the race detector as well. What asks one thing after another takes
# ten times as long with it and shows nothing.
RACE := ./machine/... ./probe ./bench/probes ./bench/measuring ./bench/timing ./bench/evidence ./bench/sittings ./bench/transfer ./server ./store ./backup ./core/filetest
IN_TURN := ^(TestEveryRouteWithEveryCaller|TestTheContract|TestNoOtherSpellingOfARoute|TestTheWorkIsTheSameOnAnyNumberOfCores|TestUpgrades)$$

test-quick: web/dist/index.html ## the edit loop: Go tests without a browser, and those of the front end
	$(TEST) $$($(GO) list ./... | grep -v /e2e)
	$(NPM) test -- --changed

test-go: web/dist/index.html ## Go tests without a browser
	$(TEST) $$($(GO) list ./... | grep -v /e2e)

test-race: web/dist/index.html ## Go tests with the race detector where several things go on at once
	CGO_ENABLED=1 $(TEST) -race -skip '$(IN_TURN)' $(RACE)

test-long: build setup-all ## what make test takes one in a hundred of, and the rare journeys
	NOWTHEN_ALL=1 $(TEST) $$($(GO) list ./... | grep -v /e2e)
	NOWTHEN_ALL=1 $(TEST) -count=1 -parallel 3 ./e2e

test-e2e: build chromium ## journeys in headless Chromium
	$(TEST) -count=1 -parallel 3 ./e2e ./e2e/browser

test-windows: web/dist/index.html ## the tests of the Windows build, under Wine, and its bench with a job over HTTP
	@GO=$(GO) sh scripts/wine.sh

PROBE := ./core/... ./sim ./machine/... ./probe ./cmd/nowthen-probe

test-virtual: ## the probe in a whole virtual computer; NOWTHEN_LEAVE_OUT=virtual leaves it out
	@GO=$(GO) sh scripts/virtual.sh

# One processor a system is vetted, and the smaller words of 386; on the others the probe is built.
ELSEWHERE := windows/amd64 darwin/arm64
NARROW := linux/386 windows/386
BUILT := linux/arm64 windows/arm64 darwin/amd64
.PHONY: $(ELSEWHERE:%=vet-%) $(NARROW:%=vet-%) $(BUILT:%=small-%)

vet-elsewhere: $(ELSEWHERE:%=vet-%) $(NARROW:%=vet-%) $(BUILT:%=small-%) ## the programs for Windows and macOS, and the probe for all its systems, are built and vetted

system = GOOS=$(word 1,$(subst /, ,$*)) GOARCH=$(word 2,$(subst /, ,$*)) CGO_ENABLED=0

$(ELSEWHERE:%=vet-%): vet-%: web/dist/index.html
	@echo "vet $*"
	@$(system) $(GO) vet $$($(system) $(GO) list ./... | grep -v '/e2e')
	@$(system) GO=$(GO) sh scripts/small.sh

$(NARROW:%=vet-%): vet-%:
	@echo "vet $*, the probe"
	@$(system) $(GO) vet $(PROBE)
	@$(system) GO=$(GO) sh scripts/small.sh

$(BUILT:%=small-%): small-%:
	@echo "build $*, the probe"
	@$(system) GO=$(GO) sh scripts/small.sh

dist: web/dist/index.html ## build the bench and the probe for all systems into dist/, with checksums and start files for a stick
	GO=$(GO) sh scripts/dist.sh dist

probes: ## build the probes into bin/probes, where a bench from bin/ hands them out
	GO=$(GO) sh scripts/dist.sh bin probes

soak: ## run all workloads with random cancels for ten minutes, and look that nothing is left
	NOWTHEN_SOAK=10m $(GO) test -run '^TestSoak$$' -count=1 -v -timeout 20m ./machine

# What reads packages from afar goes on beside what compiles.
test: ## what a newcomer runs: Go tests, front-end tests, journeys in Chromium, contract
	@$(MAKE) --no-print-directory -j2 --output-sync=target setup warm
	@$(MAKE) --no-print-directory test-front
	@$(MAKE) --no-print-directory test-go
	@$(MAKE) --no-print-directory test-e2e
	@echo "All tests passed."

# The packages that take longest to compile need no front end.
warm:
	@$(GO) build gorm.io/gorm modernc.org/sqlite github.com/gofiber/fiber/v3 github.com/chromedp/chromedp ./core/... ./sim ./machine/... ./store

test-all: test test-rest ## make test and the rest: race detector, Windows, the virtual computer, static analysis, other systems

test-rest: setup-all
	@$(MAKE) --no-print-directory -j2 --output-sync=target check vet-elsewhere test-windows
	@$(MAKE) --no-print-directory test-race
	@$(MAKE) --no-print-directory test-long
	@$(MAKE) --no-print-directory test-virtual
	@echo "All the rest passed."

bench: web/dist/index.html ## print the measures, with the machine's name
	@echo "on $$(uname -n), $$(uname -sm), $$(getconf _NPROCESSORS_ONLN) processors"
	$(GO) test -run '^$$' -bench 'LargeJob/(add|press|ledger|job)|Demo|Board/again' -benchtime 200x -timeout 20m ./server
	$(GO) test -run '^$$' -bench 'LargeJob/import|Board/first|Listeners|Bodies' -benchtime 3x -timeout 20m ./server
	NOWTHEN_MANY=10000 $(GO) test -count=1 -run TestManyRunsAtOnce -v -timeout 20m ./server | grep -E '^(---|ok|FAIL)'
	NOWTHEN_MANY=100000 $(GO) test -count=1 -run TestALargeTree -bench Manifest -benchtime 3x ./cmd/nowthen-probe
	NOWTHEN_ALL=1 NOWTHEN_LOAD=6m $(GO) test -count=1 -run 'TestFiveThousandEventStreams|TestMixedLoad' -parallel 1 -v -timeout 20m ./e2e | grep -E 'measure|ok|FAIL'
	NOWTHEN_ALL=1 $(GO) test -count=1 -run 'TestFirstLoad|TestLongListsDrawWhatIsInSight|TestWhatAFrameOfTheTimerCosts' -parallel 1 -v ./e2e | grep -E 'KB|measure|ok|FAIL'

bench-engine: ## run the engine and a bare loop of the same system calls in turn, and print the ratios
	$(GO) test -run '^$$' -bench CloseToTheMetal -benchtime 9x ./machine
	$(GO) test -run '^$$' -bench InnerLoop -benchtime 2000000x ./core/drivetest
	$(GO) test -run '^$$' -bench Reporting -benchtime 9x ./probe
	@echo "The Windows build under Wine (the cost of its calls there, no more):"
	@GO=$(GO) sh scripts/wine.sh bench

mutants: ## change limits and formulas of the core one by one, and look that a test notices (long)
	$(GO) run ./scripts/mutants

FUZZTIME ?= 60s
fuzz: ## fuzz everything that parses, a minute each (FUZZTIME=10s for less)
	@grep -rEo '^func Fuzz[A-Za-z0-9]+' --include='*_test.go' --exclude-dir=node_modules . | sort | while IFS=: read -r file name; do \
		echo "$$file $${name#func }"; $(GO) test -run '^$$' -fuzz "^$${name#func }\$$" -fuzztime $(FUZZTIME) -fuzzminimizetime 10x "$$(dirname "$$file")" || exit 1; done

screenshots: build chromium ## take the pictures in docs/screenshots from the demo
	sh scripts/screenshots.sh

clean: ## remove what was built
	rm -rf bin dist web/dist/assets web/dist/index.html
