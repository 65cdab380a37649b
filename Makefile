.PHONY: demo test bench mutate release-dump pictures need need-test

# Start with the demo world on http://127.0.0.1:8080.
demo: need
	go build -o bin/coldtap ./cmd/coldtap
	exec bin/coldtap serve --demo

# Everything: formatting, vet, staticcheck, unit, database and browser tests.
test: need-test
	test -z "$$(gofmt -l cmd demo internal)"
	go vet ./...
	go tool staticcheck ./...
	go run ./cmd/withdb go test -count=1 -timeout 30m ./...

# Measure and write docs/benchmarks.md, garbage collected as the server does it.
bench: need-test
	mkdir -p var
	GOGC=400 go run ./cmd/withdb go test -run xxx -bench . ./internal/... > var/bench.txt
	go run ./cmd/benchtable < var/bench.txt > docs/benchmarks.md

# Refresh the pictures of the main views.
pictures: need-test
	go run ./cmd/withdb go run ./cmd/pictures docs/screenshots

need:
	sh scripts/need mariadb-server chromium
need-test:
	sh scripts/need mariadb-server chromium libxml2-utils poppler-utils
	sh scripts/grammar var/dita

# Make deliberate faults in the core, one at a time, and write docs/mutation.md. SEED and COUNT decide which.
SEED ?= 1
COUNT ?= 200
mutate:
	go run ./cmd/mutate --seed $(SEED) --count $(COUNT)

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
