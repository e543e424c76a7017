package chart

import (
	"bytes"
	"fmt"
	"image"
	"image/draw"
	"image/png"
	"strings"
	"sync"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"widetally/internal/faces"
)

// mostPixels bounds a picture in dots.
const mostPixels = 16_000_000

// PNG draws an SVG of the charts module as dots, scale of them to a pixel of the drawing, for
// readers that know no SVG. Its texts are set in the letters of the application.
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

var loaded = sync.OnceValues(func() ([2]*opentype.Font, error) {
	regular, err := opentype.Parse(faces.Sans.Regular)
	if err != nil {
		return [2]*opentype.Font{}, err
	}
	bold, err := opentype.Parse(faces.Sans.Bold)
	return [2]*opentype.Font{regular, bold}, err
})

// letters sets the texts of an SVG; a turned one stands level where it begins.
func letters(on *image.RGBA, svg string, scale float64) error {
	fonts, err := loaded()
	if err != nil {
		return fmt.Errorf("chart: %w", err)
	}
	texts, err := textsOf(svg)
	if err != nil {
		return err
	}
	for _, t := range texts {
		of := fonts[0]
		if t.bold {
			of = fonts[1]
		}
		face, err := opentype.NewFace(of, &opentype.FaceOptions{Size: t.size * scale, DPI: 72})
		if err != nil {
			return fmt.Errorf("chart: %w", err)
		}
		from := fixed.Int26_6(t.x*scale*64) - fixed.Int26_6(t.before*float64(font.MeasureString(face, t.text)))
		d := font.Drawer{Dst: on, Src: image.NewUniform(t.colour), Face: face, Dot: fixed.Point26_6{X: from, Y: fixed.Int26_6(t.y * scale * 64)}}
		d.DrawString(t.text)
		if err := face.Close(); err != nil {
			return fmt.Errorf("chart: %w", err)
		}
	}
	return nil
}
