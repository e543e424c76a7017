package reporting

import (
	"fmt"
	"regexp"
	"runtime"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/sync/errgroup"

	"widetally/internal/chart"
	"widetally/internal/export"
)

// drawing is a picture with what it was drawn as.
type drawing struct {
	picture *export.Picture
	svg     string
}

// render draws the pictures as dots and as pages where these are asked for, as many at once as there are
// processors.
func (d *made) render() error {
	group, ctx := errgroup.WithContext(d.ctx)
	group.SetLimit(runtime.GOMAXPROCS(0))
	for _, one := range d.drawn {
		group.Go(func() (err error) {
			if err = ctx.Err(); err == nil && d.Dots != nil {
				one.picture.PNG, err = d.Dots(one.svg, export.DotsPerPixel)
			}
			if err == nil && d.Page != nil {
				one.picture.PDF, err = d.Page(one.svg)
			}
			return err
		})
	}
	return group.Wait()
}

var drawnSize = regexp.MustCompile(`<svg[^>]*\bwidth="([\d.]+)"[^>]*\bheight="([\d.]+)"`)

func (d *made) picture(p chart.Data, title string, notes []string) error {
	if d.Draw == nil {
		return nil
	}
	caption := p.Title
	if caption == "" {
		caption = sentenceCase(title)
		switch {
		case p.Axis == "" || strings.EqualFold(p.Axis, title):
		case strings.ContainsAny(title[max(0, len(title)-1):], "?.!"):
			caption += " " + p.Axis
		default:
			caption += ": " + p.Axis
		}
	}
	p.Title, p.Notes = "", []string{} // they stand under it
	svg, err := d.Draw(d.ctx, p)
	if err != nil {
		return err
	}
	d.figures++
	out := export.Picture{Number: d.figures, Label: d.text("report.figure", "n", strconv.Itoa(d.figures)), Caption: caption, Notes: nonEmpty(notes), Alt: p.Alt, SVG: apart(svg, d.figures)}
	if size := drawnSize.FindStringSubmatch(svg); size != nil {
		out.Width, _ = strconv.ParseFloat(size[1], 64) // the pattern takes numbers alone
		out.Height, _ = strconv.ParseFloat(size[2], 64)
	}
	if out.Width <= 0 || out.Height <= 0 {
		return fmt.Errorf("report: a picture without a size")
	}
	d.drawn = append(d.drawn, drawing{&out, svg})
	d.add(export.Block{Kind: export.PictureBlock, Picture: &out, Anchor: fmt.Sprintf("figure-%d", d.figures)})
	return nil
}

func sentenceCase(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(first)) + s[size:]
}

var svgID = regexp.MustCompile(`(id="|url\(#)([\w-]+)`)

// apart keeps the ids within a picture its own, since several stand on one page.
func apart(svg string, n int) string {
	return svgID.ReplaceAllString(svg, fmt.Sprintf("${1}f%d-$2", n))
}

func nonEmpty(list []string) (out []string) {
	for _, s := range list {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}
