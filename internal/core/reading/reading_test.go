package reading_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"coldtap/internal/core/chapter"
	"coldtap/internal/core/quantity"
	"coldtap/internal/core/reading"
	"coldtap/internal/core/words"
	"coldtap/internal/rig/drafted"
)

func gneiss(t testing.TB) chapter.Inputs {
	return drafted.Inputs(t, drafted.Model(t, "gneiss-24-2027"))
}

// handOut is a text about Gneiss 24 as somebody might have written it, each sentence with what it should be found:
// a for agrees, d for differs, c for can't be told, nothing for what claims nothing. Behind it stands the slip.
const handOut = `# Know your water system
a|The fresh tank holds 43 gal (163 L).
a|Your 43 gal fresh tank holds 162.8 litres of water.
d|The fresh tank holds 43 litres.|litres-for-gallons
d|The fresh tank holds 39 gal.
d|The fresh tank holds 34 gal.
a|The grey tank holds 39 gal, the black tank holds 37 gal.
d|The grey tank holds 37 gal and the black tank holds 39 gal.|other-part
a|Water heater capacity: 10 gal.
d|Water heater capacity: 6 gal.
c|The tank holds 43 gal.
c|The fresh tank holds at least 40 gal.
c|If your camper has the large tank, it holds 60 gal.
c|Some campers hold 43 gal in the fresh tank.
c|The 2026 fresh tank held 43 gal.
|Welcome to your new camper.
|Read this with care.
c|The outside shower is behind a door.
d|Add water to the ice maker by hand.
c|There is no ice maker.
# Sanitizing
a|Pour 11 tbsp of household bleach, thinned, into the tank.
d|Pour 11 oz of bleach into the tank.|ounces-for-tablespoons
d|Use 3 cups of bleach.
a|Use bleach with 5.25 % available chlorine.
d|Use bleach with 8.25 % available chlorine.
a|A quarter cup of bleach per 15 gallons is what you need.
d|One cup of bleach to 12 gallons is what you need.
d|Two teaspoons of bleach to 25 gallons is enough.
a|Let it soak for 4 to 8 hours.
a|Let it soak for 6 hours.
d|Let it soak for 4 to 8 minutes.|minutes-for-hours
d|Let it soak for 12 hours.
c|Let it soak for at least 4 hours.
d|Rinse and refill twice.
a|Flush: drain and refill once.
a|The sanitizer stands at 50 ppm chlorine.
d|The sanitizer stands at 200 ppm of chlorine.
# Winterizing
d|Close the bypass valve.
a|Open the bypass valve.
a|Close the heater inlet valve and close the heater outlet valve.
d|Open the heater inlet valve.|other-handle
c|Do not open the heater inlet valve.
a|Turn the pick-up valve to HOSE.
d|Turn the pick-up valve to TANK.
a|It takes 2 jugs of antifreeze.
d|It takes 6 gallons of antifreeze.
a|With the heater not bypassed it takes 11.9 gal of antifreeze.
a|Never use air over 50 psi to blow out the lines.
d|Never use air over 90 psi to blow out the lines.
a|Blow the lines out with air at 40 psi.
d|Blow the lines out with air at 4 bar.
# Everyday use
a|Close the bypass valve.
a|The pump fuse is 7.5 A.
d|The pump fuse is 10 A.
a|The pump delivers 3.0 gal/min and cuts out at 55 psi.
d|The pump delivers 3.0 L/min.
a|With everything full, the water weighs 452 lb in all.
d|With everything full, the water weighs 452 kg in all.|kilograms-for-pounds
a|It takes about 11 min to fill the fresh tank.
d|It takes 11 hours to fill the fresh tank.|hours-for-minutes`

// Each sentence of a hand-out is found what it is, and what was mistaken is told.
func TestAHandOutIsHeldAgainstTheModel(t *testing.T) {
	in := gneiss(t)
	tell := words.English(quantity.US)
	var text []string
	var want []string
	for _, l := range strings.Split(handOut, "\n") {
		if strings.HasPrefix(l, "#") {
			text, want = append(text, l), append(want, "h")
			continue
		}
		f := strings.SplitN(l, "|", 3)
		text = append(text, f[1])
		slip := ""
		if len(f) > 2 {
			slip = f[2]
		}
		want = append(want, f[0]+" "+slip)
	}
	got := reading.Read(in, strings.Join(text, "\n"))
	require.Len(t, got, len(want))
	short := map[reading.Verdict]string{reading.Agrees: "a", reading.Differs: "d", reading.CantTell: "c"}
	for i, s := range got {
		if want[i] == "h" {
			assert.True(t, s.Heading, s.Text)
			continue
		}
		slip := ""
		var said []string
		for _, c := range s.Claims {
			slip += strings.TrimPrefix(c.Slip.ID, "slip.")
			said = append(said, fmt.Sprintf("%s: %s, is %s; %s", s.Text[c.From:c.To], tell.Tell(c.About), tell.Tell(c.Is),
				tell.Tell(c.Why)))
		}
		expected := strings.SplitN(want[i], " ", 2)
		assert.Equal(t, expected[0], short[s.Verdict], "%s\n%s", s.Text, strings.Join(said, "\n"))
		if expected[1] != "" {
			assert.Contains(t, slip, expected[1], "%s\n%s", s.Text, strings.Join(said, "\n"))
		}
	}
}

// A sentence is taken over with what follows the model in the place of its figures.
func TestASentenceIsTakenOver(t *testing.T) {
	in := gneiss(t)
	list := reading.Read(in, "The fresh tank holds 43 gal (163 L) and the water heater capacity is 6 gal. "+
		"Let it soak for 4 to 8 hours.")
	require.Len(t, list, 2)
	assert.Equal(t, "The fresh tank holds [[part/fresh]] and the water heater capacity is [[part/heater]].",
		list[0].Taken())
	assert.Equal(t, "Let it soak for [[soak]].", list[1].Taken())
	list = append(list, reading.Read(in, "# Winterizing\nRinse and refill twice with 3 jugs of antifreeze.\n"+
		"Close the bypass valve.\nUse bleach with 8.25 % available chlorine.")...)
	require.Len(t, list, 6)
	assert.Equal(t, "Rinse and refill [[flush/lines-pushed/refills]] times with [[antifreeze/antifreeze/drained/jugs]] jugs of "+
		"antifreeze.", list[3].Taken())
	assert.Equal(t, "Bypass valve: [[position:valve-bypass@antifreeze]].", list[4].Taken())
	assert.Empty(t, list[5].Taken(), "what differs and can't be put right is not taken over")
	for _, s := range list {
		for _, p := range chapter.Pieces(s.Taken()) {
			if p.Ref != "" {
				assert.False(t, in.Live(p.Ref).IsZero(), p.Ref)
			}
		}
	}
}
