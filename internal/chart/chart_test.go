package chart

import (
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"image/png"
	"io"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/web"
)

const whiskers = `{"kind":"whiskers","alt":"x","axis":"95 % intervals","title":"","size":1,"notes":[],"plot":null,"curve":null,"whiskers":{"from":55,"to":63,"reference":{"at":62,"text":"claimed 62 %"},
	"rows":[{"name":"Wilson <&>","lower":56,"estimate":59,"upper":61.9,"text":"56 to 61.9"},{"name":"Wald","lower":56,"estimate":59,"upper":62,"text":"56 to 62"}]}}`

const curve = `{"kind":"curve","alt":"x","axis":"χ²","title":"A title \u0026 more","size":1,"notes":["1,240 households"],"plot":null,"whiskers":null,"curve":{"x":[0,1,2,3],"density":[1,0.6,0.3,0.1],"top":1,"statistic":2.5,"outside":false,"label":"χ² = 2.5",
	"critical":[{"at":2,"text":"critical 2"}],"tails":[{"from":2.5,"to":null}],"rejection":[{"from":2,"to":null}]}}`

type raw string

func (r raw) MarshalJSON() ([]byte, error) { return []byte(r), nil }

// texts are those of an SVG, which has to be well formed.
func texts(t *testing.T, svg string) []string {
	t.Helper()
	var out []string
	d := xml.NewDecoder(strings.NewReader(svg))
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return out
		}
		require.NoError(t, err)
		if text, ok := token.(xml.CharData); ok && strings.TrimSpace(string(text)) != "" {
			out = append(out, strings.TrimSpace(string(text)))
		}
	}
}

// A picture drawn without a browser holds what the chart says, hostile labels included, and
// is the same each time, whoever draws beside it.
func TestPicturesWithoutABrowser(t *testing.T) {
	t.Parallel()
	d := New(web.Charts())
	first, err := d.Draw(t.Context(), raw(whiskers))
	require.NoError(t, err)
	for _, want := range []string{"Wilson <&>", "Wald", "56 to 62", "claimed 62 %", "95 % intervals"} {
		assert.Contains(t, texts(t, first), want)
	}
	second, err := d.Draw(t.Context(), raw(curve))
	require.NoError(t, err)
	assert.Contains(t, texts(t, second), "critical 2")
	assert.Contains(t, texts(t, second), "χ² = 2.5")
	assert.Contains(t, texts(t, second), "A title & more")
	assert.Contains(t, texts(t, second), "1,240 households")
	var wait sync.WaitGroup
	for range 6 {
		wait.Go(func() {
			again, err := d.Draw(t.Context(), raw(curve))
			assert.NoError(t, err)
			assert.Equal(t, second, again)
		})
	}
	wait.Wait()
}

func TestWhatCannotBeDrawn(t *testing.T) {
	t.Parallel()
	_, err := New("").Draw(t.Context(), raw(curve))
	assert.ErrorIs(t, err, ErrNotBuilt)
	_, err = New("this is no module").Draw(t.Context(), raw(curve))
	assert.Error(t, err)
	d := New(web.Charts())
	_, err = d.Draw(t.Context(), raw(`{"kind":"curve","curve":{"x":7}}`))
	assert.Error(t, err, "what is no chart is refused")
	ctx, stop := context.WithCancel(t.Context())
	stop()
	_, err = d.Draw(ctx, raw(curve))
	assert.ErrorIs(t, err, context.Canceled)
	_, err = d.Draw(t.Context(), raw(curve))
	assert.NoError(t, err, "and the next picture is drawn")
}

// The same picture in dots has its size, its colours and its letters, and a hostile one is refused.
func TestPicturesInDots(t *testing.T) {
	t.Parallel()
	svg, err := New(web.Charts()).Draw(t.Context(), raw(whiskers))
	require.NoError(t, err)
	dots, err := PNG(svg, 2)
	require.NoError(t, err)
	picture, err := png.Decode(bytes.NewReader(dots))
	require.NoError(t, err)
	size := regexp.MustCompile(`width="(\d+)" height="(\d+)"`).FindStringSubmatch(svg)
	assert.Equal(t, size[1:], []string{fmt.Sprint(picture.Bounds().Dx() / 2), fmt.Sprint(picture.Bounds().Dy() / 2)})
	inked := func(svg string) (n int) {
		raw, err := PNG(svg, 2)
		require.NoError(t, err)
		p, err := png.Decode(bytes.NewReader(raw))
		require.NoError(t, err)
		for y := range p.Bounds().Dy() {
			for x := range p.Bounds().Dx() {
				if r, g, b, _ := p.At(x, y).RGBA(); r+g+b < 3*0xffff {
					n++
				}
			}
		}
		return n
	}
	without := regexp.MustCompile(`<text[^>]*>[^<]*</text>`).ReplaceAllString(svg, "")
	assert.Greater(t, inked(without), 500, "lines")
	assert.Greater(t, inked(svg), inked(without)+500, "and letters")
	page, err := PDF(svg)
	require.NoError(t, err)
	again, err := PDF(svg)
	require.NoError(t, err)
	assert.Equal(t, page, again, "the same drawing is the same file")
	side, err := strconv.ParseFloat(size[1], 64)
	require.NoError(t, err)
	assert.Contains(t, string(page), fmt.Sprintf("/MediaBox [0 0 %.2f ", side*0.75))
	assert.Equal(t, 2, strings.Count(string(page), "/FontFile2"), "both letters are embedded")
	for _, bad := range []string{"", "no picture", `<svg width="1000000" height="1000000" viewBox="0 0 1000000 1000000"></svg>`} {
		_, err := PNG(bad, 2)
		assert.Error(t, err, bad)
		_, err = PDF(bad)
		assert.Error(t, err, bad)
	}
}
