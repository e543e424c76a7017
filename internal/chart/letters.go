package chart

import (
	"encoding/xml"
	"errors"
	"fmt"
	"image/color"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// lettering is a text of a drawing: where its line begins, in pixels, and how it looks.
type lettering struct {
	text       string
	x, y, size float64
	bold       bool
	// before is which part of its length stands before x: 0, a half, or all of it.
	before float64
	// turn is by how many degrees it is turned, against the clock.
	turn   float64
	colour color.RGBA
}

// textsOf reads the texts of an SVG of the charts module.
func textsOf(svg string) (out []lettering, err error) {
	d := xml.NewDecoder(strings.NewReader(svg))
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("chart: %w", err)
		}
		start, is := token.(xml.StartElement)
		if !is || start.Name.Local != "text" {
			continue
		}
		var content struct {
			Text string `xml:",chardata"`
		}
		if err := d.DecodeElement(&content, &start); err != nil {
			return nil, fmt.Errorf("chart: %w", err)
		}
		at := map[string]string{}
		for _, a := range start.Attr {
			at[a.Name.Local] = a.Value
		}
		out = append(out, letteringOf(at, content.Text))
	}
}

var (
	sizeIn  = regexp.MustCompile(`font-size:\s*([\d.]+)px`)
	numbers = regexp.MustCompile(`-?[\d.]+(?:e-?\d+)?`)
)

func letteringOf(at map[string]string, text string) lettering {
	l := lettering{text: text, size: 12, x: number(at["x"]), y: number(at["y"]), colour: colour(at["fill"])}
	if found := sizeIn.FindStringSubmatch(at["style"]); found != nil {
		l.size = number(found[1])
	}
	l.bold = strings.Contains(at["style"], "font-weight:bold") || strings.Contains(at["style"], "font-weight:600")
	if at["dominant-baseline"] == "central" {
		const half = 0.35 // of the size, from the middle of small letters to their foot
		l.y += l.size * half
	}
	moved := numbers.FindAllString(at["transform"], -1)
	switch {
	case strings.HasPrefix(at["transform"], "translate") && len(moved) > 0:
		l.x += number(moved[0])
		if len(moved) > 1 {
			l.y += number(moved[1])
		}
	case strings.HasPrefix(at["transform"], "matrix") && len(moved) == 6:
		m := [6]float64{}
		for i := range m {
			m[i] = number(moved[i])
		}
		l.x, l.y = m[0]*l.x+m[2]*l.y+m[4], m[1]*l.x+m[3]*l.y+m[5]
		l.turn = -math.Atan2(m[1], m[0]) * 180 / math.Pi
	}
	switch at["text-anchor"] {
	case "middle":
		l.before = 0.5
	case "end":
		l.before = 1
	}
	return l
}

// number is 0 where nothing can be read.
func number(s string) float64 {
	x, _ := strconv.ParseFloat(s, 64)
	return x
}

func colour(hex string) color.RGBA {
	n, err := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 32)
	if err != nil || len(hex) != 7 {
		return color.RGBA{A: 255}
	}
	return color.RGBA{uint8(n >> 16), uint8(n >> 8), uint8(n), 255} //nolint:gosec // parts of a colour
}
