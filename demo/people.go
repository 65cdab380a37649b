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
