# Two commands set up all they need on a fresh machine with Go, Node and npm: make demo, make test.
SHELL := /bin/bash
# no C: the binaries are static, and what is compiled for one purpose serves all
export CGO_ENABLED := 0
.DELETE_ON_ERROR:
.PHONY: demo test whole race check build web bench distances screenshots generate chromium tools clean fmt release

APP := web/dist/app/index.html
MODULES := web/node_modules/.package-lock.json
WEB := $(shell find web/src web/public web/index.html web/vite.config.ts web/svelte.config.js web/tsconfig.json -type f 2>/dev/null)
NPM := cd web && npm --no-fund --no-audit --loglevel=error

demo: build
	./bin/glossator demo

build: $(APP)
	go build -o bin/glossator ./cmd/glossator

web: $(APP)

$(MODULES): web/package.json web/package-lock.json
	@command -v npm >/dev/null || { echo "npm is missing: install Node.js 20.19 or newer"; exit 1; }
	$(NPM) ci --ignore-scripts
	@touch $@

# the page, with the licences of all that it and the program are made of beside it
$(APP): $(MODULES) $(WEB) go.mod
	$(NPM) run build -- --logLevel warn
	go run ./release licences web/dist/app/licences.txt

# Chromium drives the browser tests and the screenshots.
chromium:
	@command -v chromium >/dev/null || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends chromium; }

# Other programs that tests compare with: sox and csound make sounds, ebur128 measures loudness, pdftotext and xlsx2csv read documents, sqlite3 databases, midicsv MIDI files.
tools: chromium
	@command -v sox >/dev/null && command -v csound >/dev/null && command -v ebur128 >/dev/null && command -v pdftotext >/dev/null && command -v xlsx2csv >/dev/null && command -v sqlite3 >/dev/null && command -v midicsv >/dev/null \
		|| { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends sox csound ebumeter poppler-utils xlsx2csv sqlite3 midicsv; }

test: $(APP) tools
	go test -timeout 25m $(TESTFLAGS) ./...

# the tests over all that there is, where make test goes over a share of it
whole: $(APP) tools
	GLOSSATOR_WHOLE=1 go test -timeout 60m ./...

# what takes long under the race detector and shares no more than the rest does: searches and renderings one after another, and what counts memory
RACE_SKIP := TestAsLoud|TestDemoOnEveryPanel|TestGeneratedPatches|TestFiveMegabytes|TestSheetByEar|TestListenToSheet|TestSearchForARecording|TestAPanelThatDoesNotOpen|TestDeskListsSheets|TestSheetsSayWhenTheyAreOld|TestBackAndForward|TestListenWithoutAFolder|TestBlindTestIsKept|TestTheWayOfASheet|TestAdoptLeaves|TestOutboard|TestRecordingIsCompared|TestSecondLayer|TestSchools|TestPlansAreTaken

# the tests of what several goroutines share, under the race detector, which needs a C compiler; without the ones that render one thing after another and count memory
race: $(APP) tools
	@command -v gcc >/dev/null || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends gcc libc6-dev; }
	CGO_ENABLED=1 go test -race -timeout 15m -skip '$(RACE_SKIP)' ./server ./store ./core/audition ./core/refine

check: $(APP)
	@test -z "$$(gofmt -l . | tee /dev/stderr)" || { echo "gofmt: the files above are not formatted (make fmt)"; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	$(NPM) run check
	$(NPM) run lint
	@tmp=$$(mktemp -d) && mkdir -p $$tmp/docs/formats $$tmp/web/src/lib && go run ./docs/generate $$tmp \
		&& diff -rq $$tmp/docs/openapi.json docs/openapi.json && diff -q $$tmp/docs/formats/panel.schema.json docs/formats/panel.schema.json \
		&& diff -q $$tmp/docs/formats/patch.schema.json docs/formats/patch.schema.json && diff -q $$tmp/docs/formats/show.schema.json docs/formats/show.schema.json && diff -q $$tmp/docs/rules.md docs/rules.md && diff -q $$tmp/docs/formats/laws.md docs/formats/laws.md \
		&& (cd web && npx openapi-typescript ../docs/openapi.json -o $$tmp/schema.d.ts >/dev/null) && diff -q $$tmp/schema.d.ts web/src/lib/schema.d.ts && diff -q $$tmp/web/src/lib/vocabulary.json web/src/lib/vocabulary.json \
		|| { echo "generated documents are old: make generate"; exit 1; }

generate: $(MODULES)
	go run ./docs/generate .
	cd web && npx openapi-typescript ../docs/openapi.json -o src/lib/schema.d.ts

fmt: $(MODULES)
	gofmt -w .
	$(NPM) run format

bench: $(APP) tools
	go test -run xxx -bench . -benchmem ./...
	@for f in web/dist/app/assets/*.js web/dist/app/assets/*.css; do printf '%-60s %8d bytes gzipped\n' $$f $$(gzip -9c $$f | wc -c); done

# how far the demo's translations sound from their sources; SEARCH=1 with the long search, INVENTED=n on invented instruments, BEGUN=n on those that the builder begins, FOLDER=dir on the patches and panels of a folder, WHOLE=1 over all controls
distances:
	go run ./testutil/distances $(if $(SEARCH),-search) $(if $(INVENTED),-invented $(INVENTED)) $(if $(BEGUN),-begun $(BEGUN)) $(if $(FOLDER),-folder $(FOLDER)) $(if $(WHOLE),-whole)

# static binaries for Linux, macOS and Windows with checksums, bills of materials and licences, in dist/
release: $(APP)
	rm -rf dist
	go run ./release build -out dist $(if $(VERSION),-version $(VERSION))

screenshots: $(APP) chromium
	go run ./e2e/shots

clean:
	rm -rf bin dist web/dist/app web/node_modules
