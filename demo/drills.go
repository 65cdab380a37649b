package demo

import _ "embed"

//go:embed drills.json
var drills []byte

// Drills are the course that the demo's technicians took, with the questions that were asked and what they answered, as
// cmd/drilldata writes them.
func Drills() []byte { return drills }
