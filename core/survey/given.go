package survey

// Given is the one answer to a question that all who meet the condition gave, as far as the condition asks for it by
// itself or among things that all have to hold; ok is false where it does not.
func (c Condition) Given(question uint64) (slot Slot, ok bool) {
	switch {
	case c.Op == AnyOf && c.Question == question && len(c.Answers) == 1:
		return c.Answers[0], true
	case c.Op == And:
		for _, part := range c.Of {
			if slot, ok = part.Given(question); ok {
				return slot, true
			}
		}
	}
	return 0, false
}

// Giving is the condition with another answer where Given finds one.
func (c Condition) Giving(question uint64, slot Slot) Condition {
	switch {
	case c.Op == AnyOf && c.Question == question && len(c.Answers) == 1:
		c.Answers = []Slot{slot}
	case c.Op == And:
		of := make([]Condition, len(c.Of))
		for i, part := range c.Of {
			of[i] = part.Giving(question, slot)
		}
		c.Of = of
	}
	return c
}

// Within is those of a condition who also meet another one.
func (c Condition) Within(other Condition) Condition {
	if c.Op == And {
		return Condition{Op: And, Of: append(append([]Condition{}, c.Of...), other)}
	}
	return Condition{Op: And, Of: []Condition{c, other}}
}
