package finding

import "coldtap/internal/core/fact"

// reportedRules are about what was found on units.
var reportedRules = []Rule{
	{Code: "reported", Severity: Warning, find: func(s *survey) (list []hit) {
		for i := range s.net.Model.Reported {
			r := &s.net.Model.Reported[i]
			var parts []string
			if s.net.Model.Part(r.Part) != nil || s.net.Model.Line(r.Part) != nil {
				parts = []string{r.Part}
			}
			list = append(list, hit{parts, fact.Of("finding.reported", r.Text)})
		}
		return list
	}},
}
