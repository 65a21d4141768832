# make demo     builds the program and runs its example
# make test     installs the real parsers and desktops on Debian, and runs all tests with them
# make unit     runs the tests that need nothing but Go, in seconds
# make pressed  runs those that ask real components
# make other    runs those that ask real components with Debian's other generation of them
# make hard     kills, races, edits, fills disks and swaps links, each 1,000 times
# make record   writes down what the tests have pressed, and on which versions
# make cross    builds for the other systems
# make bench    measures
# make generate renews the embedded layouts and keysyms
# make shots    renews docs/screenshots

# These print what their random mappings reach, and the shares of faults they notice.
TELLING := ./core/check ./core/proof

COMMIT  := $(shell git rev-parse --short=12 HEAD 2>/dev/null)
LDFLAGS := -s -w -X main.commit=$(COMMIT)
BUILD   := CGO_ENABLED=0 go build -trimpath -ldflags '$(LDFLAGS)'

# Random mappings are others for each tree, so that one that has passed passes again.
ifdef CI
export LEITSTAND_SEED := $(shell git rev-parse 'HEAD^{tree}' 2>/dev/null)
endif

# What presses keys, and asks other real components.
ASKING := ./core/change ./core/compile ./core/desktop ./core/install/... ./core/keys/... ./core/mechanism/...

# These take longest, so they begin first.
LONG := ./internal/cli ./core/mechanism/linux/xkb ./core/compile

.PHONY: demo build test check check-telling check-others unit pressed other hard record cross bench generate shots

# Tests of sessions wait for others more than they work, so more of them run at once than there are processors.
AT_ONCE := -p 4 -parallel 3

demo: build
	bin/leitstand demo

build:
	$(BUILD) -o bin/leitstand ./cmd/leitstand

test:
	scripts/install-checkers
	scripts/with-record check $(MAKE) check

unit:
	LEITSTAND_UNIT=1 go test ./...

pressed:
	scripts/install-checkers
	go test -count=1 -timeout 30m -run "$$(scripts/pressed-tests)" $(ASKING)

other:
	scripts/install-other-generation
	scripts/with-record check scripts/test-other-generation $(ASKING)

hard:
	LEITSTAND_ROUNDS=1000 go test -count=1 -timeout 6h -v -run "$$(scripts/hard-tests)" ./internal/cli ./core/install/...

record:
	scripts/install-checkers
	scripts/install-other-generation
	scripts/with-record write $(MAKE) check other

check:
	@test -z "$$(gofmt -l .)" || { gofmt -l .; echo 'run gofmt -w on these files'; exit 1; }
	go vet ./...
	$(MAKE) --no-print-directory -j 2 check-telling check-others

check-telling:
	go test -count=1 -timeout 30m -v $(TELLING)

check-others:
	go test $(AT_ONCE) -count=1 -timeout 30m $(LONG:./%=leitstand/%) \
		$(filter-out $(TELLING:./%=leitstand/%) $(LONG:./%=leitstand/%),$(shell go list ./...))

cross:
	GOOS=darwin GOARCH=arm64 CGO_ENABLED=0 go vet $$(go list ./... | grep -v 'mechanism/linux\|realtest/guest')
	GOOS=windows GOARCH=amd64 $(BUILD) -o bin/leitstand-windows-amd64.exe ./cmd/leitstand
	GOOS=darwin GOARCH=arm64 $(BUILD) -o bin/leitstand-darwin-arm64 ./cmd/leitstand
	GOOS=linux GOARCH=arm64 $(BUILD) -o bin/leitstand-linux-arm64 ./cmd/leitstand
	GOOS=linux GOARCH=amd64 $(BUILD) -o bin/leitstand ./cmd/leitstand

bench:
	go test -run '^$$' -bench . -benchmem ./...

generate:
	go generate ./...

shots: build
	scripts/screenshots
