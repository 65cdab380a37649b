package procedure

// The usual cautions, each said at the step where it applies.
var (
	scald = Caution{"danger",
		"Hot water scalds. Let the heater cool until a hot tap runs cold before you open it."}
	pressure = Caution{"danger",
		"The system is under pressure. Let the pressure out at a hot tap before you take out a plug or rod."}
	neverDry    = Caution{"danger", "Never switch on an empty heater: it is ruined within seconds."}
	licensed    = Caution{"note", "Work on gas or 120/230 V is for licensed people and follows local codes."}
	potableOnly = Caution{"danger",
		"Use only propylene glycol antifreeze marked as safe for potable water systems. Automotive antifreeze is poisonous."}
	noThinning = Caution{"warning", "Do not thin antifreeze that is sold ready to use."}
	chlorine   = Caution{"danger",
		"Bleach burns skin and eyes and bleaches clothes: gloves, goggles, fresh air. Never bring it together with " +
			"acid, vinegar or ammonia: the gas is toxic."}
	plainBleach = Caution{"warning", "Use plain, unscented household bleach only, and never pour it in neat."}
	attended    = Caution{"warning", "Stay with it while it fills. Do not leave filling or city water unattended."}
	hoses       = Caution{"note", "Use only hoses and fittings rated for drinking water."}
	disposal    = Caution{"note", "Empty waste only where local rules allow it."}
	drinking    = Caution{"note", "Limits for drinking water are local law."}
)

// reachUnder warns who reaches under the floor, where there is anything to
// chock or to crawl under.
func (g *generator) reachUnder() Caution {
	switch v := g.Net.Model.Vehicle(); {
	case v.Floats:
		return Caution{"note", "Look that the bilge is dry and its pump switched off before you reach " + v.Under + "."}
	case !v.Wheels:
		return Caution{"note", "Do not work under a camper that stands on jacks alone."}
	}
	return Caution{"note",
		"Chock the wheels before you reach under the floor; do not work under a camper that stands on a jack alone."}
}
