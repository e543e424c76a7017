package chart

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"io"
	"regexp"
	"strconv"
	"strings"
	"sync"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// mostPixels bounds a picture in dots.
const mostPixels = 16_000_000

// PNG draws an SVG of the charts module as dots, scale of them to a pixel of the drawing, for
// readers that know no SVG. Its texts are set in a face that ships with the program.
func PNG(svg string, scale float64) ([]byte, error) {
	icon, err := oksvg.ReadIconStream(strings.NewReader(svg), oksvg.IgnoreErrorMode)
	if err != nil {
		return nil, fmt.Errorf("chart: %w", err)
	}
	w, h := int(icon.ViewBox.W*scale+0.5), int(icon.ViewBox.H*scale+0.5)
	if w < 1 || h < 1 || w*h > mostPixels {
		return nil, fmt.Errorf("chart: a picture of %d × %d dots", w, h)
	}
	dots := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(dots, dots.Bounds(), image.White, image.Point{}, draw.Src)
	icon.SetTarget(0, 0, float64(w), float64(h))
	icon.Draw(rasterx.NewDasher(w, h, rasterx.NewScannerGV(w, h, dots, dots.Bounds())), 1)
	if err := letters(dots, svg, scale); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := png.Encode(&out, dots); err != nil {
		return nil, fmt.Errorf("chart: %w", err)
	}
	return out.Bytes(), nil
}

var faces = sync.OnceValues(func() ([2]*opentype.Font, error) {
	regular, err := opentype.Parse(goregular.TTF)
	if err != nil {
		return [2]*opentype.Font{}, err
	}
	bold, err := opentype.Parse(gobold.TTF)
	return [2]*opentype.Font{regular, bold}, err
})

// letters sets the texts of an SVG.
func letters(on *image.RGBA, svg string, scale float64) error {
	fonts, err := faces()
	if err != nil {
		return fmt.Errorf("chart: %w", err)
	}
	d := xml.NewDecoder(strings.NewReader(svg))
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("chart: %w", err)
		}
		start, is := token.(xml.StartElement)
		if !is || start.Name.Local != "text" {
			continue
		}
		var content struct {
			Text string `xml:",chardata"`
		}
		if err := d.DecodeElement(&content, &start); err != nil {
			return fmt.Errorf("chart: %w", err)
		}
		at := map[string]string{}
		for _, a := range start.Attr {
			at[a.Name.Local] = a.Value
		}
		if err := letter(on, fonts, at, content.Text, scale); err != nil {
			return fmt.Errorf("chart: %w", err)
		}
	}
}

var (
	sizeIn  = regexp.MustCompile(`font-size:\s*([\d.]+)px`)
	numbers = regexp.MustCompile(`-?[\d.]+(?:e-?\d+)?`)
)

func letter(on *image.RGBA, fonts [2]*opentype.Font, at map[string]string, text string, scale float64) error {
	size := 12.0
	if found := sizeIn.FindStringSubmatch(at["style"]); found != nil {
		size = number(found[1])
	}
	of := fonts[0]
	if strings.Contains(at["style"], "font-weight:bold") || strings.Contains(at["style"], "font-weight:600") {
		of = fonts[1]
	}
	face, err := opentype.NewFace(of, &opentype.FaceOptions{Size: size * scale, DPI: 72})
	if err != nil {
		return err
	}
	defer face.Close()
	x, y := number(at["x"]), number(at["y"])
	moved := numbers.FindAllString(at["transform"], -1)
	switch {
	case strings.HasPrefix(at["transform"], "translate") && len(moved) > 0:
		x += number(moved[0])
		if len(moved) > 1 {
			y += number(moved[1])
		}
	case strings.HasPrefix(at["transform"], "matrix") && len(moved) == 6:
		m := [6]float64{}
		for i := range m {
			m[i] = number(moved[i])
		}
		x, y = m[0]*x+m[2]*y+m[4], m[1]*x+m[3]*y+m[5] // a turned text stands level where it begins
	}
	width := font.MeasureString(face, text)
	from := fixed.Int26_6(x * scale * 64)
	switch at["text-anchor"] {
	case "middle":
		from -= width / 2
	case "end":
		from -= width
	}
	if at["dominant-baseline"] == "central" {
		y += size * 0.35
	}
	d := font.Drawer{Dst: on, Src: image.NewUniform(colour(at["fill"])), Face: face, Dot: fixed.Point26_6{X: from, Y: fixed.Int26_6(y * scale * 64)}}
	d.DrawString(text)
	return nil
}

// number is 0 where nothing can be read.
func number(s string) float64 {
	x, _ := strconv.ParseFloat(s, 64)
	return x
}

func colour(hex string) color.Color {
	n, err := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 32)
	if err != nil || len(hex) != 7 {
		return color.Black
	}
	return color.RGBA{uint8(n >> 16), uint8(n >> 8), uint8(n), 255} //nolint:gosec // parts of a colour
}
