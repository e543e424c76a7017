package export

import (
	"bytes"
	"encoding/xml"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
	"widetally/internal/intake"
)

func book(label, code, note string) []survey.Question {
	score := 2.5
	return []survey.Question{
		{Name: "view", Wording: label, Short: "a view", Note: note, Section: "Views", Kind: survey.Ordered, Answers: []survey.Answer{{Slot: 1, Code: code, Label: label, Score: &score}, {Slot: 2, Code: "-9", Label: "Refused", Missing: "refused"}}},
		{Name: "age", Wording: "Age", Kind: survey.Continuous},
	}
}

// said is what a codebook says, without slots.
func said(questions []survey.Question, scores bool) (out []string) {
	for _, q := range questions {
		out = append(out, q.Name, q.Wording, q.Short, q.Note, q.Section, string(q.Kind))
		for _, a := range q.Answers {
			out = append(out, a.Code, a.Label, a.Missing)
			if scores && a.Score != nil {
				out = append(out, "scored")
			}
		}
	}
	return out
}

func read(t testing.TB, raw []byte) []survey.Question {
	t.Helper()
	got, err := intake.ReadCodebook(t.Context(), intake.File{R: bytes.NewReader(raw), Size: int64(len(raw))})
	require.NoError(t, err)
	return got
}

func TestCodebooksComeBack(t *testing.T) {
	t.Parallel()
	for _, text := range []string{"plain", "=formula", "with, comma; and \"quotes\"", "<xml> & more", "-dash", "Straße 🚮"} {
		want := book(text, "1", "a "+text)
		var b bytes.Buffer
		require.NoError(t, CodebookCSV(&b, want))
		assert.Equal(t, said(want, true), said(read(t, b.Bytes()), true))
		b.Reset()
		require.NoError(t, CodebookDDI(&b, "Fernmouth", SampleDesign{Sampling: "Drawn in clusters.", Weight: want[0].Name}, want))
		assert.Equal(t, said(want, false), said(read(t, b.Bytes()), false))
		var doc DDI
		require.NoError(t, xml.Unmarshal(b.Bytes(), &doc))
		assert.Equal(t, "2.5", doc.Version)
		assert.Contains(t, b.String(), `xmlns="ddi:codebook:2_5"`)
	}
}

// What a codebook file is accepted with survives being written and read again.
func FuzzCodebook(f *testing.F) {
	for _, text := range []string{"plain", "=x", "a\tb"} {
		var b bytes.Buffer
		require.NoError(f, CodebookCSV(&b, book(text, "1", "")))
		f.Add(b.Bytes())
		b.Reset()
		require.NoError(f, CodebookDDI(&b, "t", SampleDesign{}, book(text, "1", "")))
		f.Add(b.Bytes())
	}
	f.Add([]byte(`{"resources":[{"name":"a","schema":{"fields":[{"name":"x","categories":["1"]}]}}]}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		got, err := intake.ReadCodebook(t.Context(), intake.File{R: bytes.NewReader(raw), Size: int64(len(raw))})
		if err != nil {
			return
		}
		names := map[string]bool{}
		for i, q := range got {
			if q.Name == "" || names[q.Name] || strings.ContainsAny(q.Name, "'\x00") || len(q.Answers) == 0 {
				return // such a question has no place in a file of rows
			}
			names[q.Name] = true
			got[i].Kind = survey.Single
			for _, a := range q.Answers {
				if strings.HasPrefix(a.Code+a.Label+a.Missing+q.Wording, "'") || a.Code == "" {
					return
				}
			}
		}
		var b bytes.Buffer
		require.NoError(t, CodebookCSV(&b, got))
		again, err := intake.ReadCodebook(t.Context(), intake.File{R: bytes.NewReader(b.Bytes()), Size: int64(b.Len())})
		if err == nil && len(again) != len(got) {
			t.Fatalf("%d questions became %d", len(got), len(again))
		}
	})
}

func TestAPackageNeutralisesItsCells(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, Package(&b, "t", book("x", "=1", ""), nil, 1, func(int) ([]string, error) { return []string{"=1", "-3"}, nil }))
	table, err := intake.Read(t.Context(), intake.File{R: bytes.NewReader(b.Bytes()), Size: int64(b.Len())}, intake.Settings{Format: intake.DataPackage, Shape: intake.Rows, HeaderRow: 1}, nil)
	require.NoError(t, err)
	assert.Equal(t, "-3", table.First[0][1])
	assert.Equal(t, "=1", table.First[0][0], "taken back by our own reader")
}

// Weights are marked as DDI marks them, and what they weight refers to them; a codebook of somebody else
// that marks them so is read so.
func TestWeightsInDDI(t *testing.T) {
	t.Parallel()
	questions := append(book("A view", "1", ""), survey.Question{Name: "w", Wording: "Weight", Kind: survey.Weight})
	var b bytes.Buffer
	require.NoError(t, CodebookDDI(&b, "Fernmouth", SampleDesign{"Drawn within “ward”, in clusters, “street”.", "Each counts by “w”.", "w"}, questions))
	var doc DDI
	require.NoError(t, xml.Unmarshal(b.Bytes(), &doc))
	assert.Equal(t, []string{"V3", "V3", ""}, []string{doc.Vars[0].WeightVar, doc.Vars[1].WeightVar, doc.Vars[2].WeightVar})
	assert.Equal(t, "wgt", doc.Vars[2].Weight)
	assert.Equal(t, "Drawn within “ward”, in clusters, “street”.", doc.Sampling)
	assert.Equal(t, survey.Weight, read(t, b.Bytes())[2].Kind)
	b.Reset()
	require.NoError(t, CodebookDDI(&b, "Fernmouth", SampleDesign{}, questions))
	assert.NotContains(t, b.String(), "wgt-var")
	assert.NotContains(t, b.String(), "sampProc")
}
