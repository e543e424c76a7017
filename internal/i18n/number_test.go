package i18n

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/document"
)

// What was computed is read with two decimals, with more where fewer than three digits would count, and whole
// numbers as such; in a working it has six digits.
func TestComputedNumbers(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	for _, k := range []struct {
		x             float64
		read, precise string
	}{
		{2.33496, "2.33", "2.33496"},
		{8.46218, "8.46", "8.46218"},
		{0.269942, "0.270", "0.269942"},
		{0.0831234, "0.0831", "0.0831234"},
		{0.00012345, "0.000123", "0.00012345"},
		{1234.5678, "1,234.57", "1,234.57"},
		{-87.6612, "\u221287.66", "\u221287.6612"},
		{99.999, "100.00", "99.999"},
		{2.3, "2.30", "2.3"},
		{5, "5", "5"},
		{0, "0", "0"},
		{math.Inf(1), "\u221e", "\u221e"},
	} {
		m := document.Say("fact.from_to", document.Values{"lower": document.Of(document.Rounded, k.x), "upper": document.Text("x")})
		assert.Equal(t, k.read+" to x", c.Say(m))
		assert.Equal(t, k.precise+" to x", c.Say(m.Precise()))
	}
	inner := document.Say("fact.from_to", document.Values{"lower": document.Of(document.Rounded, 2.33496), "upper": document.Text("x")})
	nested := document.Say("fact.from_to", document.Values{"lower": {Kind: document.Said, Message: &inner}, "upper": {Kind: document.Listed, List: []document.Value{document.Of(document.Rounded, 1.23456)}}})
	assert.Equal(t, "2.33 to x to 1.23", c.Say(nested))
	assert.Equal(t, "2.33496 to x to 1.23456", c.Say(nested.Precise()))
	assert.Equal(t, "2.33 to x to 1.23", c.Say(nested), "the message itself stays as it was")
}

// At the terminal what the pages say gives way to what can be done there; the rest stays.
func TestTextsOfTheTerminal(t *testing.T) {
	t.Parallel()
	c, err := Load("en")
	require.NoError(t, err)
	at := c.AtTerminal()
	for id := range c.texts {
		if len(id) > len("terminal.") && id[:len("terminal.")] == "terminal." {
			of := id[len("terminal."):]
			require.True(t, c.Has(of), "%s is said nowhere else", id)
			here, _ := c.ValuesOf(of)
			there, _ := c.ValuesOf(id)
			assert.Subset(t, here, there, id)
		}
	}
	assert.Contains(t, at.Text("problem.intake.no_part", map[string]string{"text": "x"}), "--sheet")
	assert.NotContains(t, c.Text("problem.intake.no_part", map[string]string{"text": "x"}), "--sheet")
	assert.Equal(t, c.Text("problem.intake.empty", nil), at.Text("problem.intake.empty", nil))
}
