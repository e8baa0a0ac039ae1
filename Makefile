# Hemble. `make demo` and `make test` do all the set-up they need on a fresh Debian machine.

GO_SOURCES = $(shell git ls-files '*.go' '*.sql' 'go.*' 2>/dev/null) demo/course demo/library/* core/glyph/font.txt
CONSOLE_SOURCES = $(shell git ls-files 'console/src' 'console/*.ts' 'console/*.json' console/index.html 2>/dev/null)

.PHONY: demo test quick lint vulnerable build console tools firmware bench bench-class exact findings findings-blind findings-mutants faults attack load fuzz screenshots packaging docs clean

demo: build
	./bin/hemble demo

build: bin/hemble

bin/hemble: console/dist/site/index.html $(GO_SOURCES)
	go build -ldflags "-X hemble/cli.commit=$(shell git rev-parse --short=12 HEAD 2>/dev/null)" -o bin/hemble ./cmd/hemble

console: console/dist/site/index.html

console/dist/site/index.html: console/node_modules/.package-lock.json console/made/bench.wasm.gz $(CONSOLE_SOURCES)
	cd console && npm run --silent build

# The live bench as the page runs it, with what Go needs of a page.
console/made/bench.wasm.gz: $(shell git ls-files 'core/*.go' 'live/*.go' 'cmd/hemble-bench/*.go' 'go.*' 2>/dev/null)
	mkdir -p console/made
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" console/made/go.js
	GOOS=js GOARCH=wasm go build -ldflags "-s -w" -o console/made/bench.wasm ./cmd/hemble-bench
	gzip -9 -f -n console/made/bench.wasm

# Not npm ci: it refuses a lock file that leaves out packages for other systems.
console/node_modules/.package-lock.json: console/package-lock.json
	cd console && npm install --no-save --no-audit --no-fund --loglevel=error

# What the tests need beyond Go and Node.js: the AVR toolchain and a browser.
tools:
	scripts/install-tools.sh

test: tools console lint
	cd console && npm run --silent test
	go test -timeout 20m ./...

# Core, service and command line without a browser and without what takes long: under 90 s warm, while one works.
quick:
	go vet ./core/... ./demo/... ./service/... ./render ./table ./live ./cli ./client ./wire
	go test -short ./core/... ./demo/checks/... ./service/... ./render ./table ./live ./cli ./client ./wire

# What a tool can say of the sources: their form, mistakes, what nobody uses, hooks that are used wrongly, which way
# imports point (by the go command, so that a cached test would know nothing of a change).
lint: console/node_modules/.package-lock.json
	@form=$$(gofmt -l $$(git ls-files '*.go')); test -z "$$form" || { echo "not in the form of gofmt: $$form"; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	go test -count=1 ./scripts/...
	cd console && npm run --silent lint

# Known weaknesses of the libraries and of Go that the code can reach; says so where their database is out of reach.
vulnerable:
	scripts/vulnerable.sh

# The demo course's .hex and .elf from their sources.
firmware: tools
	demo/firmware.sh
	templates/firmware.sh

# Speed as ratios to the plain stepping reference in the same run, of the bare core and with displays; what displays
# cost; an hour of a clock; a capture of 1 GB; in headless Chromium, script and layout of a step through a minute of two
# displays (8 ms meant), filtering 1,000 rows as one types (100 ms meant), and the live bench.
bench: tools console
	go test ./core/machine/avr -run '^$$' -bench Core -benchtime 0.5s -count 5 | go run ./scripts/ratios
	go test ./core/machine/pic14 -run '^$$' -bench Core -benchtime 0.5s -count 5 | go run ./scripts/ratios
	go test ./core/machine/rtl -run '^$$' -bench TenSeconds
	go test ./core/machine/rp2040 -run '^$$' -bench Core -benchtime 2s
	go test ./build -run '^$$' -bench Speed -benchtime 10x
	go test ./interpreter -run '^$$' -bench Scripts -benchtime 10x
	go test ./core/bench -run '^$$' -bench 'Displays|Flood' -benchtime 2s -count 3
	go test ./core/bench -run '^$$' -bench Hour -benchtime 3x
	HEMBLE_LONG=1 go test ./demo/checks/marking -run LongCapture -count 1 -v
	go test ./console -run '^$$' -bench 'Scrub|Filter' -benchtime 3x
	go test ./console -run '^$$' -bench Live -benchtime 1x

# 200 submissions of four trials of 20 s each, with garbage collected as the command does.
bench-class: tools
	GOGC=200 go test ./demo/checks/marking -run '^$$' -bench Class -benchtime 1x

# Every fault of demo/faults, alone and in pairs, and half A of the second course (demo/elsewhere), built and marked: writes
# docs/findings.md and docs/findings-elsewhere.md; `make test` does a sample.
findings: tools
	HEMBLE_FINDINGS=$(CURDIR)/docs/findings.md go test ./demo/faults -run Findings -timeout 30m -count 1 -v
	HEMBLE_FINDINGS=$(CURDIR)/docs/findings-elsewhere.md go test ./demo/elsewhere -run 'Findings$$|Right|Later' -timeout 30m -count 1 -v

# Half B of the second course: totals only, a line in docs/findings-blind.csv.
findings-blind: tools
	HEMBLE_BLIND=$(CURDIR)/docs/findings-blind.csv go test ./demo/elsewhere -run Blind -timeout 30m -count 1 -v

# Programs of the second course with changes that nobody chose, drawn by the number SEED: writes docs/findings-mutants.md;
# `make test` does one of each.
SEED ?= 31
findings-mutants: tools
	HEMBLE_MUTANTS=$(CURDIR)/docs/findings-mutants.md HEMBLE_SEED=$(SEED) go test ./demo/elsewhere -run Mutants \
		-timeout 30m -count 1 -v

# That the fast way gives what the plain one does, bit for bit, over whole trials and many random programs; `make test`
# does two seconds of each.
exact: tools
	HEMBLE_EXACT=1 go test ./core/machine/avr ./core/bench ./core/vision ./demo/checks/bench ./build -run 'FastEqualsPlain|Random|Exact' -timeout 30m

# A service that is killed 200 times while clients hand in; a full disk, torn logs, clocks that jump, backups under load.
faults: tools
	HEMBLE_FAULTS=1 go test ./service/faults -timeout 40m -count 1 -v

# What somebody does who means harm, to the real binary on loopback, at length; `make test` does a little of each.
attack: tools console
	HEMBLE_ATTACK=1 go test ./service/attack ./sandbox -timeout 30m -count 1 -v

# 200 students within a minute, with nobody and with 500 pages listening; lists of 10,000; what a term takes on the disk.
load: tools
	HEMBLE_LOAD=1 go test ./service/load -timeout 40m -count 1

# Each fuzz target for a while; FUZZTIME=1m by default.
FUZZTIME ?= 1m
fuzz:
	go test ./core/firmware -run '^$$' -fuzz FuzzHex -fuzztime $(FUZZTIME)
	go test ./core/firmware -run '^$$' -fuzz FuzzELF -fuzztime $(FUZZTIME)
	go test ./core/firmware -run '^$$' -fuzz FuzzStabs -fuzztime $(FUZZTIME)
	go test ./core/firmware -run '^$$' -fuzz FuzzRoundTrip -fuzztime $(FUZZTIME)
	go test ./core/firmware -run '^$$' -fuzz FuzzUF2 -fuzztime $(FUZZTIME)
	go test ./core/machine/avr -run '^$$' -fuzz FuzzAlterations -fuzztime $(FUZZTIME)
	go test ./core/machine/armm -run '^$$' -fuzz FuzzAlterations -fuzztime $(FUZZTIME)
	go test ./core/machine/pic14 -run '^$$' -fuzz FuzzAlterations -fuzztime $(FUZZTIME)
	go test ./core/machine/rtl -run '^$$' -fuzz FuzzAlterations -fuzztime $(FUZZTIME)
	go test ./core/machine/scripted -run '^$$' -fuzz FuzzAlterations -fuzztime $(FUZZTIME)
	go test ./core/source -run '^$$' -fuzz FuzzAlterations -fuzztime $(FUZZTIME)
	go test ./core/script -run '^$$' -fuzz FuzzTokens -fuzztime $(FUZZTIME)
	go test ./core/netlist -run '^$$' -fuzz FuzzDesign -fuzzminimizetime 10x -fuzztime $(FUZZTIME)
	go test ./core/script -run '^$$' -fuzz FuzzScript -fuzzminimizetime 10x -fuzztime $(FUZZTIME)
	go test ./core/machine/scripted -run '^$$' -fuzz FuzzLines -fuzzminimizetime 10x -fuzztime $(FUZZTIME)
	go test ./core/machine/scripted -run '^$$' -fuzz FuzzPort -fuzztime $(FUZZTIME)
	go test ./build -run '^$$' -fuzz FuzzNames -fuzztime $(FUZZTIME)
	go test ./build -run '^$$' -fuzz FuzzPortRanges -fuzztime $(FUZZTIME)
	go test ./build -run '^$$' -fuzz FuzzComplete -fuzztime $(FUZZTIME)
	go test ./core/capture -run '^$$' -fuzz FuzzVCD -fuzztime $(FUZZTIME)
	go test ./core/display -run '^$$' -fuzz FuzzExample -fuzztime $(FUZZTIME)
	go test ./core/machine/avr -run '^$$' -fuzz FuzzFlash -fuzztime $(FUZZTIME)
	go test ./core/machine/avr -run '^$$' -fuzz FuzzTranslation -fuzztime $(FUZZTIME)
	go test ./core/machine/pic14 -run '^$$' -fuzz FuzzFlash -fuzztime $(FUZZTIME)
	go test ./core/machine/loops -run '^$$' -fuzz FuzzLoops -fuzztime $(FUZZTIME)
	go test ./core/machine/armm -run '^$$' -fuzz FuzzCode -fuzztime $(FUZZTIME)
	go test ./core/machine/rp2040 -run '^$$' -fuzz FuzzImage -fuzztime $(FUZZTIME)
	go test ./core/machine/rp2040 -run '^$$' -fuzz FuzzSays -fuzztime $(FUZZTIME)
	go test ./core/machine/rtl -run '^$$' -fuzz FuzzDesign -fuzzminimizetime 10x -fuzztime $(FUZZTIME)
	go test ./core/exercise -run '^$$' -fuzz FuzzBundle -fuzzminimizetime 10x -fuzztime $(FUZZTIME)
	go test ./core/exercise -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZTIME)
	go test ./core/exercise -run '^$$' -fuzz FuzzInclude -fuzzminimizetime 20x -fuzztime $(FUZZTIME)
	go test ./core/author -run '^$$' -fuzz FuzzSource -fuzzminimizetime 20x -fuzztime $(FUZZTIME)
	go test ./build -run '^$$' -fuzz FuzzPlan -fuzztime $(FUZZTIME)
	go test ./service/classes/roster -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZTIME)
	go test ./service/classes/roster -run '^$$' -fuzz FuzzMatch -fuzztime $(FUZZTIME)
	go test ./service/marks/gradebook -run '^$$' -fuzz FuzzFill -fuzztime $(FUZZTIME)
	go test ./service/durable -run '^$$' -fuzz FuzzPack -fuzztime $(FUZZTIME)

# The pictures in docs/screenshots, from the demo course.
screenshots: tools build
	scripts/screenshots.sh

# The systemd units, looked through by systemd itself.
packaging: build
	packaging/check.sh

# What is made from declarations: the references of exercise files and of findings, the document of the API, the console's types of it.
docs:
	go run ./cmd/hemble schema --markdown > docs/exercise-reference.md
	go run ./cmd/hemble schema > docs/exercise.schema.json
	go run ./cmd/hemble schema --findings > docs/causes.md
	go run ./cmd/hemble schema --errors > docs/errors.md
	go run ./cmd/hemble schema --api > docs/openapi.json
	cd console && npm run --silent types
	go run ./scripts/rooms
	go run ./scripts/glossary

clean:
	rm -rf bin console/node_modules console/dist/site
