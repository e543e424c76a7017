package book

import (
	"slices"

	"widetally/core/analysis"
)

// Renamed gives keys those that they have elsewhere; false for one that is not there.
type Renamed func(analysis.Key) (analysis.Key, bool)

// all gives several keys theirs, without those that are not there.
func (r Renamed) all(keys []analysis.Key) (out []analysis.Key) {
	for _, key := range keys {
		if to, there := r(key); there {
			out = append(out, to)
		}
	}
	return out
}

// Moved is the banner with other keys; breaks that name what is not there are left out.
func (b Banner) Moved(question, subgroup Renamed) Banner {
	out := Banner{Breaks: []Break{}}
	for _, one := range b.Breaks {
		n, among := len(one.Questions), one.Subgroup
		one.Questions = question.all(one.Questions)
		there := true
		if among != "" {
			one.Subgroup, there = subgroup(among)
		}
		if there && len(one.Questions) == n {
			out.Breaks = append(out.Breaks, one)
		}
	}
	return out
}

// Moved is the book with other keys, without the questions that are not there; false where its banner or its
// subgroup is not there.
func (b Book) Moved(question, subgroup, banner Renamed) (Book, bool) {
	var there bool
	if b.Banner, there = banner(b.Banner); !there {
		return b, false
	}
	if b.Subgroup != "" {
		if b.Subgroup, there = subgroup(b.Subgroup); !there {
			return b, false
		}
	}
	b.Choice.Questions = question.all(b.Choice.Questions)
	var batteries []Battery
	for _, one := range b.Batteries {
		if one.Questions = question.all(one.Questions); len(one.Questions) > 1 {
			batteries = append(batteries, one)
		}
	}
	b.Batteries = batteries
	return b, true
}

// Moved is the nets with other keys.
func (n NetsOf) Moved(question, list Renamed) NetsOf {
	return NetsOf{movedNets(n.Questions, question), movedNets(n.Lists, list)}
}

func movedNets(nets map[analysis.Key][]Net, to Renamed) map[analysis.Key][]Net {
	var out map[analysis.Key][]Net
	for key, of := range nets {
		if at, there := to(key); there {
			if out == nil {
				out = map[analysis.Key][]Net{}
			}
			out[at] = slices.Clone(of)
		}
	}
	return out
}
