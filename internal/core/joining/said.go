package joining

import "coldtap/internal/core/fact"

// Said is the question in words.
func (q *Question) Said() fact.Fact {
	return fact.Of("joining.ask."+string(q.What), q.Part, q.Other)
}

// Said is an answer to a question in words, where it is not a plain name.
func (q *Question) SaidOf(o Option) fact.Fact {
	switch {
	case q.What == AskWay && o.Value == "no":
		return fact.Of("joining.way.no")
	case o.Value == "yes":
		return fact.Of("joining.yes")
	case o.Value == "no":
		return fact.Of("joining.no")
	case q.What == AskFlow && len(o.Names) > 1:
		return fact.Of("joining.from", o.Names[0], o.Names[1])
	case q.What == AskHot || q.What == AskCom:
		return fact.Of("joining.hot", o.Names[0])
	}
	return fact.Of("it", o.Value)
}
