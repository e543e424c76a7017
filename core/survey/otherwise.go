package survey

import "strings"

// Otherwise says in what a question of a file is not the one of the same name that there is.
type Otherwise struct {
	// Wording is that of the file, where both have one and they differ; "" else.
	Wording string
	// Strange says that most answers of the file are not among those of the question: fewer than half of their codes.
	Strange bool
	// Relabelled are codes that mean something else.
	Relabelled []Relabelled
}

// Relabelled is a code with what it means here and what it means in the file.
type Relabelled struct{ Code, Here, There string }

// openList is from more answers than which on a list is taken to be open, such as streets or trades, of which every
// file has others.
const openList = 40

// Doubtful reports whether somebody has to say if it is the same question.
func (o Otherwise) Doubtful() bool { return o.Strange || len(o.Relabelled) > 0 }

// OtherwiseThan compares a question of a file with the one that there is; of kinds without a list of answers the
// wordings alone.
func OtherwiseThan(here, file Question) (out Otherwise) {
	worded := func(q Question) bool { return q.Wording != "" && q.Wording != q.Name }
	if worded(here) && worded(file) && !sameWords(here.Wording, file.Wording) {
		out.Wording = file.Wording
	}
	if here.Kind != Single && here.Kind != Ordered && here.Kind != ChooseAll {
		return out
	}
	known, all := 0, 0
	byCode := map[string]Answer{}
	for _, a := range here.Answers {
		byCode[a.Code] = a
	}
	for _, a := range file.Proper() {
		is, there := byCode[a.Code]
		all++
		if !there {
			continue
		}
		known++
		said := func(a Answer) bool { return a.Label != "" && a.Label != a.Code }
		if said(is) && said(a) && !sameWords(is.Label, a.Label) {
			out.Relabelled = append(out.Relabelled, Relabelled{a.Code, is.Label, a.Label})
		}
	}
	out.Strange = len(here.Proper()) > 0 && 2*known < all && all <= openList
	return out
}

// sameWords compares texts without regard to spaces and capitals.
func sameWords(a, b string) bool {
	return strings.EqualFold(strings.Join(strings.Fields(a), " "), strings.Join(strings.Fields(b), " "))
}
