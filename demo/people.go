package demo

import "coldtap/internal/people"

// People lists the accounts of the demo world. Their passwords are shown on
// the sign-in page in demo mode, and nowhere else.
func People() []people.Account {
	return []people.Account{
		{Login: "imre", Name: "Imre Valk", Password: "gravel under the wheels", Role: people.Author},
		{Login: "odile", Name: "Odile Brandt", Password: "check the figures twice", Role: people.Reviewer},
		{Login: "teku", Name: "Teku Aroha", Password: "taps in the right order", Role: people.Trainer},
		{Login: "pia", Name: "Pia Lund", Password: "highpass before the frost", Role: people.Technician},
		{Login: "sam", Name: "Sam Okoro", Password: "lakeside in the thaw", Role: people.Technician},
		{Login: "keeper", Name: "Keeper of the keys", Password: "plateau wind all day", Role: people.Admin},
	}
}

// Dealer is a dealer of the demo world, with the sign-in names of those who work there.
type Dealer struct {
	Name, Place string
	People      []string
}

// Dealers lists the dealers.
func Dealers() []Dealer {
	return []Dealer{
		{"Highpass Service", "Highpass, a day’s drive north", []string{"pia"}},
		{"Lakeside Coach", "Lakeside, a day’s drive west", []string{"sam"}},
	}
}

// Unit is a camper of the demo world that was built.
type Unit struct {
	Model, Serial, Dealer, Use, Made string
	Log                              []Logged
}

// Logged is something that was done on it.
type Logged struct {
	On, Kind, Of string
	Value        float64
	Words        string
}

// Units lists some, with what was done on them.
func Units() []Unit {
	const heater = "heater"
	return []Unit{
		{"gneiss-24-2027", "G24-2700123", "Highpass Service", "holidays", "2026-05-20", []Logged{
			{"2026-05-28", "sanitized", "", 0, "at delivery"}, {"2026-09-02", "repaired", "", 0, "new mixer in the shower"}}},
		{"gneiss-24-2027", "G24-2700131", "Lakeside Coach", "lived-in", "2026-06-03", []Logged{
			{"2026-06-12", "sanitized", "", 0, "at delivery"}}},
		{"gneiss-24-2027", "G24-2700140", "Highpass Service", "stored", "2026-06-17", []Logged{
			{"2026-06-30", "sanitized", "", 0, "at delivery"}}},
		{"ashlar-20-2026", "A20-2600044", "Highpass Service", "holidays", "2025-04-11", []Logged{
			{"2025-04-20", "sanitized", "", 0, "at delivery"},
			{"2025-10-03", "winterized", "winterize-air-then", 2, ""}, {"2026-04-07", "de-winterized", "", 0, ""},
			{"2026-04-09", "sanitized", "", 0, ""}, {"2026-10-05", "winterized", "winterize-air-then", 3, "alone"}}},
		{"tuff-9-2027", "T9-2700012", "Lakeside Coach", "lived-in", "2026-07-01", []Logged{
			{"2026-07-06", "hot-cycle", heater, 0, ""}}},
	}
}
