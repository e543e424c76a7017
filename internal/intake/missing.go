package intake

import "widetally/core/survey"

// declareMissing counts the codes that the settings declare for every column as missing.
func (t *Table) declareMissing() {
	if len(t.Settings.Missing) == 0 {
		return
	}
	reasons := map[string]string{}
	for _, code := range t.Settings.Missing {
		reasons[code] = survey.NoAnswerReason
	}
	for i := range t.Columns {
		c := &t.Columns[i]
		if i != t.CountColumn {
			c.Question, c.Data, _ = survey.SetMissing(c.Question, c.Data, reasons)
		}
	}
}
