package export

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"io"
	"regexp"
	"strconv"
	"strings"

	"widetally/core/survey"
)

// csv writes the tables of a report one behind the other, an empty line between.
func (r Report) csv(w io.Writer) error {
	out := csv.NewWriter(w)
	for i, t := range r.signed() {
		if i > 0 {
			if err := out.Write([]string{""}); err != nil {
				return err
			}
		}
		one := *t
		one.Title = t.caption()
		if err := one.rows(out, CSVTable); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// figures writes all figures one by one, those that the tables do not show, too.
func (r Report) figures(w io.Writer) error {
	out := csv.NewWriter(w)
	if err := out.Write(r.Words.heads()); err != nil {
		return err
	}
	for _, line := range r.tidy() {
		cells := make([]string, len(line))
		for i, c := range line {
			if cells[i] = neutral(c.Text); c.Number != nil {
				cells[i] = exact(*c.Number)
			}
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func (r Report) json(w io.Writer) error {
	r.Version, r.Blocks = ReportVersion, listed(r.Blocks)
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(r)
}

// markdown writes a report in CommonMark with tables of its usual extension; pictures stand in a folder
// beside it, or are told by their alternative texts.
func (r Report) markdown(w io.Writer) error {
	out := bufio.NewWriter(w)
	say := func(lines ...string) {
		for _, l := range lines {
			_, _ = out.WriteString(l + "\n") // the first error is kept and told by Flush
		}
	}
	say("# "+escapeMarkdown(r.Title), "", escapeMarkdown(r.Of), "")
	for _, b := range r.Blocks {
		switch b.Kind {
		case HeadingBlock:
			say(strings.Repeat("#", min(b.Level+1, 6))+" "+markdownRuns(b.Runs), "")
		case ParagraphBlock:
			say(markdownRuns(b.Runs), "")
		case QuoteBlock:
			say("> "+markdownRuns(b.Runs), "")
		case ListBlock:
			for i, item := range b.Items {
				sign := "-"
				if b.Numbered {
					sign = strconv.Itoa(i+1) + "."
				}
				say(sign + " " + markdownRuns(item))
			}
			say("")
		case TableBlock:
			t := b.Table
			if t.caption() != "" {
				say("**"+escapeMarkdown(t.caption())+"**", "")
			}
			line := func(cells []string) string {
				for i := range cells {
					cells[i] = escapeMarkdown(cells[i])
				}
				return "| " + strings.Join(append(cells, make([]string, max(0, len(t.Head)-len(cells)))...), " | ") + " |"
			}
			rule := "|"
			for i := range t.Head {
				if i > 0 && !t.wordy(i) {
					rule += "---:|"
				} else {
					rule += "---|"
				}
			}
			say(line(t.flatHead()), rule)
			for _, row := range t.Rows {
				say(line(texts(row)))
			}
			say("")
			for _, n := range t.Notes {
				say(escapeMarkdown(n), "")
			}
		case PictureBlock:
			if b.Picture.PNG != nil {
				say("!["+escapeMarkdown(b.Picture.Alt)+"]("+b.Picture.file(MarkdownReport)+")", "")
			} else {
				say(escapeMarkdown(b.Picture.Alt), "")
			}
			say("**"+escapeMarkdown(b.Picture.Label+". "+b.Picture.Caption)+"**", "")
			for _, n := range b.Picture.Notes {
				say(escapeMarkdown(n), "")
			}
		}
	}
	return out.Flush()
}

func texts(row []Cell) []string {
	out := make([]string, len(row))
	for i, c := range row {
		out[i] = oneLine(c.shown())
	}
	return out
}

var (
	markdownSigns  = regexp.MustCompile("[\\\\`*_\\[\\]<>|#{}~]")
	markdownNames  = regexp.MustCompile(`&(?:#|\w+;)`)
	markdownBegins = regexp.MustCompile(`^(\d{1,9})([.)](?:\s|$))|^()([-+](?:\s|$)|[-=]+\s*$)`)
)

// escapeMarkdown writes a text so that it is read as it is, wherever it stands: signs that mark something
// have a stroke before them, what would begin a list or underline a heading, too, and names of signs.
func escapeMarkdown(s string) string {
	s = markdownSigns.ReplaceAllString(oneLine(s), `\$0`)
	s = markdownNames.ReplaceAllString(s, `\$0`)
	s = markdownBegins.ReplaceAllString(s, `$1$3\$2$4`)
	if strings.HasSuffix(s, "!") { // a link behind it would be a picture
		s = s[:len(s)-1] + `\!`
	}
	return s
}

func markdownRuns(runs []Run) string {
	var b strings.Builder
	for _, r := range runs {
		text := escapeMarkdown(r.Text)
		if r.Code {
			text = "`" + strings.ReplaceAll(r.Text, "`", "'") + "`"
		}
		for _, s := range []struct {
			is   bool
			sign string
		}{{r.Italic, "*"}, {r.Bold, "**"}} {
			if s.is { // blanks at its ends stand outside, or it would be no emphasis
				bare := strings.TrimSpace(text)
				before, after, _ := strings.Cut(text, bare)
				if bare != "" {
					text = before + s.sign + bare + s.sign + after
				}
			}
		}
		if r.Link != "" && !strings.HasPrefix(r.Link, "#") {
			text = "[" + text + "](<" + r.Link + ">)"
		}
		b.WriteString(text)
		if r.Stale != "" {
			b.WriteString(" *\\[" + escapeMarkdown(r.Stale) + "\\]*")
		}
	}
	return b.String()
}

// neutral is a cell of text that no spreadsheet runs.
func neutral(s string) string { return survey.Neutral(oneLine(s)) }
