package mutate

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
)

// Named is a fault that somebody wrote down: a text that stands once in a file, and what it becomes.
func Named(file string, source []byte, was, now string) (Mutant, error) {
	if n := bytes.Count(source, []byte(was)); n != 1 {
		return Mutant{}, fmt.Errorf("%s: %q stands there %d times, not once", file, was, n)
	}
	from := bytes.Index(source, []byte(was))
	line := 1 + bytes.Count(source[:from], []byte("\n"))
	sum := sha256.Sum256(fmt.Append(nil, file, string(source), was, now))
	return Mutant{ID: hex.EncodeToString(sum[:6]), File: file, Line: line, Last: line, Kind: "named", Was: was, Now: now,
		from: from, to: from + len(was)}, nil
}
