.PHONY: demo test test-long checked bench mutate release-dump pictures need need-test

# Start with the demo world on http://127.0.0.1:8080.
demo: need
	go build -o bin/coldtap ./cmd/coldtap
	exec bin/coldtap serve --demo

# Everything: formatting, vet, staticcheck, unit, database and browser tests. Tests that could try everything try a sample
# by SEED, which is another each time; what fails tells it.
SEED ?= $(shell date +%s)
SEED := $(SEED)
test: need-test checked
	@echo "Samples by SEED=$(SEED)"
	GOGC=300 COLDTAP_SEED=$(SEED) go run ./cmd/withdb go test -json -vet=off -count=1 -timeout 30m $(TESTED) | go run ./cmd/testtold

# The same, and everything is tried.
test-long: need-test checked
	COLDTAP_SEED=$(SEED) COLDTAP_LONG=1 go run ./cmd/withdb go test -json -vet=off -count=1 -timeout 6h $(TESTED) | \
		go run ./cmd/testtold

# The longest first, so that nothing waits for it in the end.
TESTED = ./internal/web ./cmd/... ./demo/... ./internal/...

checked:
	test -z "$$(gofmt -l cmd demo internal)"
	go vet ./...
	go tool staticcheck ./...

# Measure and write docs/benchmarks.md, garbage collected as the server does it.
bench: need-test
	mkdir -p var
	GOGC=400 go run ./cmd/withdb go test -run xxx -bench . ./internal/... > var/bench.txt
	go run ./cmd/benchtable < var/bench.txt > docs/benchmarks.md

# Refresh the pictures of the main views.
pictures: need-test
	go run ./cmd/withdb go run ./cmd/pictures docs/screenshots

need:
	sh scripts/need mariadb-server chromium-headless-shell
need-test:
	sh scripts/need mariadb-server chromium-headless-shell libxml2-utils poppler-utils
	sh scripts/grammar var/dita

# Make deliberate faults, one at a time, and write docs/mutation.md. COUNT of all, GRAVE of what can hurt, drawn by SEED.
# It can be stopped and goes on from what it kept; AGAIN=--again tries those once more that went unnoticed.
COUNT ?= 200
GRAVE ?= 400
mutate: need-test
	go run ./cmd/withdb go run ./cmd/mutate --seed $(SEED) --count $(COUNT) --grave $(GRAVE) $(AGAIN)

# Keep a database as this version writes it, for the upgrade test of later ones: make release-dump NAME=v2
release-dump: need
	go run ./cmd/releasedump internal/upgrade/testdata/$(NAME)

# Let 50 editors and 500 readers work for three minutes, write docs/load.md; fails where somebody waits too long.
.PHONY: load
load: need
	scripts/need nginx-light
	mkdir -p var
	go build -o bin/coldtap ./cmd/coldtap
	go run ./cmd/load > var/load.md
	cp var/load.md docs/load.md

# Three replicated nodes, one killed and back, one cut off, one out of its group, while people work.
.PHONY: cluster-test
cluster-test: need
	sh scripts/need galera-4 rsync socat lsof
	go test -tags cluster -count=1 -timeout 15m -v ./internal/cluster
