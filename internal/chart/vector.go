package chart

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
	"golang.org/x/image/math/fixed"

	"widetally/internal/faces"
)

const (
	// pointsPerPixel turns CSS pixels into the points of paper.
	pointsPerPixel = 0.75
	// fine is how many steps of a line stand for a pixel, of which curves are made.
	fine = 16.0
)

// PDF draws an SVG of the charts module as a page of its size, in lines and letters that stay sharp. The
// same drawing is the same file.
func PDF(svg string) ([]byte, error) {
	icon, err := oksvg.ReadIconStream(strings.NewReader(svg), oksvg.IgnoreErrorMode)
	if err != nil {
		return nil, fmt.Errorf("chart: %w", err)
	}
	w, h := icon.ViewBox.W, icon.ViewBox.H
	if w < 1 || h < 1 || w*h > mostPixels {
		return nil, fmt.Errorf("chart: a picture of %g × %g pixels", w, h)
	}
	page := fpdf.NewCustom(&fpdf.InitType{OrientationStr: "P", UnitStr: "pt", Size: fpdf.SizeType{Wd: w * pointsPerPixel, Ht: h * pointsPerPixel}})
	page.SetCatalogSort(true)
	page.SetCreationDate(time.Unix(0, 0))
	page.SetModificationDate(time.Unix(0, 0))
	page.SetAutoPageBreak(false, 0)
	page.AddUTF8FontFromBytes(letterFamily, "", faces.Sans.Regular)
	page.AddUTF8FontFromBytes(letterFamily, "B", faces.Sans.Bold)
	page.AddPage()
	icon.SetTarget(0, 0, w*fine, h*fine)
	icon.Draw(rasterx.NewDasher(int(w*fine), int(h*fine), &paper{page: page}), 1)
	page.SetAlpha(1, "Normal")
	texts, err := textsOf(svg)
	if err != nil {
		return nil, err
	}
	for _, t := range texts {
		style := ""
		if t.bold {
			style = "B"
		}
		page.SetFont(letterFamily, style, t.size*pointsPerPixel)
		page.SetTextColor(int(t.colour.R), int(t.colour.G), int(t.colour.B))
		x, y := t.x*pointsPerPixel, t.y*pointsPerPixel
		page.TransformBegin()
		page.TransformRotate(t.turn, x, y)
		page.Text(x-t.before*page.GetStringWidth(t.text), y, t.text)
		page.TransformEnd()
	}
	var out bytes.Buffer
	if err := page.Output(&out); err != nil {
		return nil, fmt.Errorf("chart: %w", err)
	}
	return out.Bytes(), nil
}

const letterFamily = "sans"

// paper takes what a drawing is made of as outlines to be filled.
type paper struct {
	page    *fpdf.Fpdf
	begun   bool
	evenOdd bool
}

func (p *paper) at(of fixed.Point26_6) (x, y float64) {
	const unit = 64
	return float64(of.X) / unit / fine * pointsPerPixel, float64(of.Y) / unit / fine * pointsPerPixel
}

// Start begins an outline.
func (p *paper) Start(a fixed.Point26_6) {
	p.begun = true
	p.page.MoveTo(p.at(a))
}

// Line goes on with it.
func (p *paper) Line(b fixed.Point26_6) { p.page.LineTo(p.at(b)) }

// Draw fills what was outlined.
func (p *paper) Draw() {
	if !p.begun {
		return
	}
	how := "f"
	if p.evenOdd {
		how = "f*"
	}
	p.page.DrawPath(how)
	p.begun = false
}

// SetColor is that of what is filled next.
func (p *paper) SetColor(of any) {
	c, is := of.(color.Color)
	if !is {
		return
	}
	n := color.NRGBAModel.Convert(c).(color.NRGBA) //nolint:forcetypeassert // its own model
	p.page.SetFillColor(int(n.R), int(n.G), int(n.B))
	p.page.SetAlpha(float64(n.A)/255, "Normal")
}

// SetWinding says which parts of crossing outlines are inside.
func (p *paper) SetWinding(nonZero bool) { p.evenOdd = !nonZero }

// Clear, SetBounds, SetClip and GetPathExtent are of use to who draws dots.
func (*paper) Clear()                             {}
func (*paper) SetBounds(int, int)                 {}
func (*paper) SetClip(image.Rectangle)            {}
func (*paper) GetPathExtent() fixed.Rectangle26_6 { return fixed.Rectangle26_6{} }
