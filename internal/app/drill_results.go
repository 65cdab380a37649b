package app

import (
	"cmp"
	"context"
	"slices"
	"strings"
)

// What makes a proposal of what people get wrong: enough answers, and at least half of them wrong.
const (
	proposeFrom  = 5
	proposeShare = 0.5
)

// Proposals are the questions of a model that most get wrong, with what became of them: open ones first, the most
// missed first.
func (d *Drills) Proposals(ctx context.Context, slug string) ([]ProposalOf, error) {
	tallies, err := d.Store.DrillTallies(ctx, slug)
	if err != nil {
		return nil, err
	}
	decided, err := d.Store.DrillProposals(ctx, slug)
	if err != nil {
		return nil, err
	}
	var list []ProposalOf
	for _, t := range tallies {
		p := ProposalOf{DrillTally: t, State: ProposalOpen}
		i := slices.IndexFunc(decided, func(x DrillProposal) bool { return x.Mark == t.Mark })
		if i >= 0 {
			p.State, p.Words, p.By = decided[i].State, decided[i].Words, decided[i].ByName
			// what went on being missed since is open again
			since := DrillTally{Asked: t.Asked - decided[i].Asked, Wrongs: t.Wrongs - decided[i].Wrongs}
			if missed(since) {
				p.State = ProposalOpen
			}
		}
		if i >= 0 || missed(t) {
			list = append(list, p)
		}
	}
	slices.SortStableFunc(list, func(a, b ProposalOf) int {
		return cmp.Or(cmp.Compare(order(a.State), order(b.State)), cmp.Compare(b.Share(), a.Share()))
	})
	return list, nil
}

func order(state string) int {
	if state == ProposalOpen {
		return 0
	}
	return 1
}

func missed(t DrillTally) bool { return t.Asked >= proposeFrom && t.Share() >= proposeShare }

// ProposalOf is a question that most get wrong.
type ProposalOf struct {
	DrillTally
	State string
	Words string
	By    string
}

// Decide keeps what an author does about what most get wrong.
func (d *Drills) Decide(ctx context.Context, by By, slug, mark, state, why string) error {
	why = strings.TrimSpace(why)
	switch {
	case state != ProposalTaken && state != ProposalLeft:
		return refused("A proposal is taken over, or left.")
	case why == "":
		return refused("Say what was changed in the guide, or why it stays as it is.")
	case len([]rune(why)) > 400:
		return refused("That has at most 400 letters.")
	}
	list, err := d.Proposals(ctx, slug)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(p ProposalOf) bool { return p.Mark == mark })
	if i < 0 {
		return ErrNotFound
	}
	return d.Store.Do(ctx, func(tx Tx) error {
		p := &DrillProposal{Slug: slug, Mark: mark, Asked: list[i].Asked, Wrongs: list[i].Wrongs, State: state,
			Words: why, ByID: by.ID, ByName: by.Name, CreatedAt: d.Now().UTC()}
		if err := tx.SetDrillProposal(ctx, p); err != nil {
			return err
		}
		return tx.Audit(ctx, by, "proposal "+state, slug, list[i].Ask)
	})
}
