package survey

import "strings"

// ReadAs reads a file's column as a question of the study has it: the same kind, and
// codes of numbers that the question holds for missing as such.
func ReadAs(q Question, c Built) (Built, error) {
	as, data, _, err := Recode(c.Question, c.Data, q.Kind)
	if err != nil {
		return c, err
	}
	if q.Kind.Measured() {
		reasons := map[string]string{}
		for _, a := range q.Answers {
			if a.Code != "" && a.Missing != "" {
				reasons[strings.TrimSpace(a.Code)] = a.Missing
			}
		}
		as, data, _ = SetMissing(as, data, reasons)
	}
	c.Question, c.Data = as, data
	return c, nil
}
