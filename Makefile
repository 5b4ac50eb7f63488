# All that is done with the sources. `make demo` and `make test` are all a newcomer needs.

TAGS := nomsgpack
GO := go
BIN := bin/mastflag

# Where tests keep their files: in memory where there is room, because what they wait for most is the disk.
SCRATCH := $(shell free=$$(df -Pk /dev/shm 2>/dev/null | awk 'NR == 2 { print $$4 }'); \
	if [ -w /dev/shm ] && [ "$${free:-0}" -gt 4000000 ]; then echo /dev/shm; else echo "$${TMPDIR:-/tmp}"; fi)
# What is tested is linked without what debuggers want, and `make lint` has vetted it.
TEST := TMPDIR=$(SCRATCH) $(GO) test -tags $(TAGS) -ldflags="-s -w" -vet=off -timeout 20m -shuffle=on

.PHONY: demo build test bench engines fuzz generate units rules mutate figures \
	servers compiler format lint lint-go lint-web test-web install browser clean

demo: build ## install, build, and start with demo data
	./$(BIN) demo

build: install ## the program with its interface and site script in it: bin/mastflag
	cd sitescript && npm run --silent build
	cd web && npm run --silent build -- --logLevel error
	@touch internal/webui/dist/.keep
	cp node_modules/axe-core/axe.min.js internal/inspect/dist/axe.js
	$(GO) run -tags $(TAGS) ./internal/licences internal/webui/dist/licences.txt
	$(GO) build -tags $(TAGS) -o $(BIN) ./cmd/mastflag

install: node_modules/.installed
node_modules/.installed: package-lock.json
	npm ci --no-audit --no-fund --loglevel=error
	@touch $@

generate: install ## what is derived from the Go types: schema, OpenAPI, TypeScript
	$(GO) run -tags $(TAGS) ./internal/generate
	cd web && npm run --silent types

units: ## what units of time and days of the week are called in each language, from Node’s Intl
	node internal/generate/units.mjs > core/countdown/units.json
	node internal/generate/weekdays.mjs > core/render/weekdays.json

rules: ## what the accessibility check asks for, in each language, from axe-core
	node internal/generate/axe.mjs > core/document/axe.json

# The checks of the interface and the script use one core, and packages come from the network: both go beside Go's
# compiling.
test: install ## everything: linters, unit tests, end-to-end tests in Chromium
	$(MAKE) -j2 --output-sync=target --no-print-directory build browser lint-web servers test-web compiler
	$(MAKE) --no-print-directory lint-go
	$(TEST) -parallel 4 ./cmd/... ./core/... ./internal/...
	$(GO) test -tags $(TAGS) -race ./core/decide/atonce
	$(TEST) -parallel 4 ./e2e

lint: lint-go lint-web

lint-go:
	@test -z "$$(gofmt -l cmd core internal e2e)" || { gofmt -l cmd core internal e2e; echo "run make format"; exit 1; }
	$(GO) mod tidy -diff
	$(GO) vet -tags $(TAGS) ./...
	$(GO) tool staticcheck -tags $(TAGS) ./...
	$(GO) run ./internal/lines

lint-web: install
	cd sitescript && npm run --silent lint && npm run --silent check
	cd web && npm run --silent lint && npm run --silent check

test-web: install
	cd sitescript && npm run --silent test
	cd web && npm run --silent test

format: install
	gofmt -w cmd core internal e2e
	npx prettier --log-level warn --write web/src sitescript/src sitescript/build.mjs sitescript/eslint.config.js \
		web/vite.config.ts web/eslint.config.js internal/generate

bench: build browser ## decisions, what is kept of visitors, the site script: printed as ratios measured in one run
	$(GO) test -tags $(TAGS) -run '^$$' -bench . ./core/decide
	$(GO) test -tags $(TAGS) -run '^$$' -bench Shapes -benchtime 1x ./core/findings
	$(GO) test -tags $(TAGS) -run '^$$' -bench . -benchtime 5x ./internal/server ./internal/records ./internal/contacts
	BENCH=1 $(TEST) -run ScriptTime ./e2e | grep 'script time'

engines: build browser ## page layouts, and what is held back, in Debian’s Firefox and WebKit, too
	@for p in firefox-esr:firefox-esr WebKitWebDriver:webkit2gtk-driver Xvfb:xvfb; do \
		command -v $${p%%:*} >/dev/null || echo $${p#*:}; done | xargs -r .ci/packages
	ENGINES=firefox,webkit $(TEST) -run OtherEngines ./e2e

fuzz: ## every reader of foreign bytes, 30 seconds each
	@grep -rn '^func Fuzz' --include=*_test.go core internal | \
		sed 's,/[^/]*:[0-9]*:func \(Fuzz[A-Za-z]*\).*, \1,' | while read dir name; do \
		$(GO) test -tags $(TAGS) -run '^$$' -fuzz "^$$name\$$" -fuzztime 30s ./$$dir || exit 1; done

mutate: install ## how many faults put into a package its own tests find, and which not; takes hours
	@for p in core/decide core/consent core/document internal/delivery internal/counting; do \
		echo $$p; $(GO) tool gremlins unleash -t $(TAGS) -S l --timeout-coefficient 3 ./$$p || exit 1; done
	cd sitescript/mutation && npm ci --no-audit --no-fund --loglevel=error
	cd sitescript && mutation/node_modules/.bin/stryker run

figures: build ## another figure in the code for each that the docs name: whether its test fails; takes an hour
	$(GO) run ./internal/figures $(FIGURES)

browser: ## Debian's Chromium, for the end-to-end tests: without its windows if there is such a package
	@command -v chromium-headless-shell >/dev/null || \
		.ci/packages chromium-headless-shell || command -v chromium >/dev/null || .ci/packages chromium

servers: ## Debian's web servers, for the test of server-side includes
	@for p in nginx:nginx-light apache2:apache2-bin caddy:caddy curl:curl; do \
		command -v $${p%%:*} >/dev/null || test -x /usr/sbin/$${p%%:*} || echo $${p#*:}; done | xargs -r .ci/packages

compiler: ## Debian's C compiler, for the race detector
	@command -v gcc >/dev/null || .ci/packages gcc libc6-dev

clean:
	rm -rf bin node_modules web/node_modules sitescript/node_modules sitescript/mutation/node_modules
	find internal/webui/dist internal/delivery/dist internal/inspect/dist -mindepth 1 ! -name .keep -delete
