package run

import "coldtap/internal/core/state"

// Contents are what stands in each piece, as far as it is liquid.
func (x *System) Contents() state.Contents { return x.contents() }
