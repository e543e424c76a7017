package export

import (
	"bufio"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
	"unicode"
)

// latexHead is what stands before the text: the packages are those of Debian's usual ones, and both
// pdfLaTeX and LuaLaTeX take it. A character that has no glyph is told by its number.
const latexHead = `\documentclass[a4paper]{article}
\usepackage{iftex}
\ifPDFTeX
  \usepackage[T1]{fontenc}
  \usepackage[utf8]{inputenc}
  \usepackage{lmodern,textcomp}
  \newcommand{\otherchar}[1]{{\footnotesize U+#1}}
\else
  \usepackage{fontspec}
  \newcommand{\otherchar}[1]{\iffontchar\font"#1 \symbol{"#1}\else{\footnotesize U+#1}\fi}
\fi
\usepackage{amsmath,amssymb,array,longtable,booktabs,caption,graphicx,pdflscape}
\usepackage[margin=2cm]{geometry}
\usepackage[hidelinks]{hyperref}
\captionsetup{font=small,labelfont=bf,justification=raggedright,singlelinecheck=false}
\setlength{\parindent}{0pt}\setlength{\parskip}{6pt}
\newlength{\picturewidth}
\newcommand{\picturefile}[3]{\setlength{\picturewidth}{#2}\ifdim\picturewidth>\linewidth\setlength{\picturewidth}{\linewidth}\fi
  \IfFileExists{#1}{\includegraphics[width=\picturewidth]{#1}}{#3}}
\setlength{\LTleft}{0pt}\setlength{\LTpre}{6pt}\setlength{\LTpost}{2pt}
`

// latex writes a report as an article. Pictures stand in a folder beside it; where they do not, their
// alternative texts stand for them.
func (r Report) latex(w io.Writer) error {
	out := bufio.NewWriter(w)
	say := func(lines ...string) {
		for _, l := range lines {
			_, _ = out.WriteString(l + "\n") // the first error is kept and told by Flush
		}
	}
	say(latexHead+`\hypersetup{pdftitle={`+escapeLaTeX(r.Title)+`},pdfauthor={`+escapeLaTeX(r.Author)+`},pdfsubject={`+escapeLaTeX(r.Study)+`}}`,
		`\title{`+escapeLaTeX(r.Title)+`}`, `\author{\parbox{0.8\linewidth}{\centering\small `+escapeLaTeX(r.Of)+`}}`, `\date{}`, `\begin{document}`, `\maketitle`, "")
	if headings, tables, pictures := r.outline(); len(headings) >= fewHeadings {
		say(`\tableofcontents`)
		if len(tables) > 1 {
			say(`\listoftables`)
		}
		if len(pictures) > 1 {
			say(`\listoffigures`)
		}
		say("")
	}
	turned := false // for the table behind a heading
	for i, b := range r.Blocks {
		switch b.Kind {
		case HeadingBlock:
			if turned = i+1 < len(r.Blocks) && r.Blocks[i+1].onItsSide(usualRooms); turned {
				say(`\begin{landscape}`)
			}
			level := []string{"section", "subsection", "subsubsection"}[min(max(b.Level, 1), 3)-1]
			title := latexRuns(b.Runs)
			say(`\phantomsection\`+level+`*{`+title+`}\addcontentsline{toc}{`+level+`}{`+title+`}`+labelled(b.Anchor), "")
		case ParagraphBlock:
			say(latexRuns(b.Runs), "")
		case QuoteBlock:
			say(`\begin{quote}`, latexRuns(b.Runs), `\end{quote}`, "")
		case ListBlock:
			kind := "itemize"
			if b.Numbered {
				kind = "enumerate"
			}
			say(`\begin{` + kind + `}`)
			for _, item := range b.Items {
				say(`\item ` + latexRuns(item))
			}
			say(`\end{`+kind+`}`, "")
		case TableBlock:
			b.Table.latex(say, b.Anchor, turned)
			turned = false
		case PictureBlock:
			b.Picture.latex(say, b.Anchor)
		}
	}
	say(`\end{document}`)
	return out.Flush()
}

func labelled(anchor string) string {
	if anchor == "" {
		return ""
	}
	return `\label{` + anchor + `}`
}

func latexSize(points float64) string {
	switch {
	case points >= usualPoints:
		return `\small`
	case points >= 9:
		return `\footnotesize`
	}
	return `\scriptsize`
}

// latex writes a table, in parts and on its side where it has to be.
func (t Table) latex(say func(lines ...string), anchor string, turned bool) {
	parts := t.parts(usualRooms)
	for k, p := range parts {
		if p.landscape && k == 0 && !turned {
			say(`\begin{landscape}`)
		}
		var columns strings.Builder
		for i, at := range p.columns {
			side := "raggedleft"
			if at == 0 || t.wordy(at) {
				side = "raggedright"
			}
			fmt.Fprintf(&columns, `>{\%s\arraybackslash}p{%.1fpt}`, side, float64(p.widths[i]-cellTwips)/20)
		}
		caption := `\caption{` + escapeLaTeX(t.Title) + `}` + labelled(anchor) + `\\`
		environment := "longtable"
		if t.Number == 0 || k > 0 { // which does not count
			environment = "longtable*"
		}
		switch {
		case t.caption() == "":
			caption = "%"
		case t.Number == 0:
			caption = `\caption*{` + escapeLaTeX(t.Title) + `}\\`
		}
		if k > 0 && t.caption() != "" {
			caption = fmt.Sprintf(`\caption*{%s (%d/%d)}\\`, escapeLaTeX(t.caption()), k+1, len(parts))
		}
		line := func(cells []string, bold bool) string {
			texts := make([]string, len(p.columns))
			for i, at := range p.columns {
				if at >= len(cells) {
					continue
				}
				if texts[i] = escapeLaTeX(cells[at]); bold && texts[i] != "" {
					texts[i] = `\textbf{` + texts[i] + `}`
				}
			}
			return strings.Join(texts, " & ") + ` \\`
		}
		head := latexOver(t.over(p.columns)) + line(t.Head, true)
		say(`{`+latexSize(p.points)+`\setlength{\tabcolsep}{3.5pt}`, `\begin{`+environment+`}{@{}`+columns.String()+`@{}}`, caption, `\toprule`, head, `\midrule`, `\endfirsthead`,
			`\toprule`, head, `\midrule`, `\endhead`, `\bottomrule`, `\endlastfoot`)
		for i, row := range t.Rows {
			foot := t.Foot > 0 && i >= len(t.Rows)-t.Foot
			if foot && i == len(t.Rows)-t.Foot {
				say(`\midrule`)
			}
			text := line(texts(row), foot)
			if kept(i, len(t.Rows)) {
				text += `*` // no page ends behind it
			}
			say(text)
		}
		say(`\end{` + environment + `}}`)
	}
	for _, n := range t.Notes {
		say(`{\footnotesize `+escapeLaTeX(n)+`\par}`, "")
	}
	if parts[len(parts)-1].landscape {
		say(`\end{landscape}`)
	}
}

// latexOver are the lines of headings over several columns, each with a rule below it.
func latexOver(lines [][]Spanning) string {
	var out strings.Builder
	for _, line := range lines {
		var cells, rules []string
		at := 1
		for _, s := range line {
			text := ""
			if s.Text != "" {
				text = `\textbf{` + escapeLaTeX(s.Text) + `}`
				rules = append(rules, fmt.Sprintf(`\cmidrule(lr){%d-%d}`, at, at+s.Columns-1))
			}
			cells = append(cells, fmt.Sprintf(`\multicolumn{%d}{c}{%s}`, s.Columns, text))
			at += s.Columns
		}
		out.WriteString(strings.Join(cells, " & ") + ` \\` + strings.Join(rules, "") + "\n")
	}
	return out.String()
}

func (p *Picture) latex(say func(lines ...string), anchor string) {
	const pointsPerPixel = 0.75
	file := p.file(LaTeXReport)
	say(`\begin{minipage}{\linewidth}`,
		fmt.Sprintf(`\picturefile{%s}{%.1fpt}{%s}`, file, p.Width*pointsPerPixel, escapeLaTeX(p.Alt)),
		`\captionof{figure}{`+escapeLaTeX(p.Caption)+`}`+labelled(anchor))
	for _, n := range p.Notes {
		say(`{\footnotesize ` + escapeLaTeX(n) + `\par}`)
	}
	say(`\end{minipage}`, "")
}

// latexSigns are what the signs of LaTeX itself and others that its fonts lack are written as.
var latexSigns = map[rune]string{
	'\\': `\textbackslash{}`, '{': `\{`, '}': `\}`, '$': `\$`, '&': `\&`, '#': `\#`, '_': `\_`, '%': `\%`, '~': `\textasciitilde{}`, '^': `\textasciicircum{}`,
	'"': `\textquotedbl{}`, '<': `\textless{}`, '>': `\textgreater{}`, '|': `\textbar{}`,
	'\u00a0': "~", '\u202f': `\,`, '\u2009': `\,`, '\u2007': `~`, '\u2003': `\quad{}`, '\u200b': "", '\u00ad': `\-`,
	'\u2018': "`", '\u2019': "'", '\u201c': "``", '\u201d': "''", '\u201e': `\quotedblbase{}`, '\u201a': `\quotesinglbase{}`, '\u00ab': `\guillemotleft{}`, '\u00bb': `\guillemotright{}`,
	'\u2013': "--", '\u2014': "---", '\u2026': `\dots{}`, '\u2022': `\textbullet{}`, '\u20ac': `\texteuro{}`, '\u00a3': `\pounds{}`, '\u00a7': `\S{}`, '\u00b0': `\textdegree{}`, '\u2116': `No.`, '\u2044': "/",
}

// latexMath are the signs that stand in mathematics.
var latexMath = map[rune]string{
	'−': "-", '×': `\times `, '÷': `\div `, '±': `\pm `, '≤': `\le `, '≥': `\ge `, '≠': `\ne `, '≈': `\approx `, '√': `\surd `, '∞': `\infty `, '∑': `\sum `, 'Σ': `\Sigma `,
	'→': `\rightarrow `, '↑': `\uparrow `, '↓': `\downarrow `, '·': `\cdot `, '½': `\tfrac12 `, '¼': `\tfrac14 `, '¾': `\tfrac34 `, '∓': `\mp `, '∈': `\in `, '′': `'`,
	'α': `\alpha `, 'β': `\beta `, 'γ': `\gamma `, 'δ': `\delta `, 'ε': `\varepsilon `, 'κ': `\kappa `, 'λ': `\lambda `, 'μ': `\mu `, 'µ': `\mu `, 'π': `\pi `, 'ρ': `\rho `,
	'σ': `\sigma `, 'τ': `\tau `, 'φ': `\varphi `, 'χ': `\chi `, 'ω': `\omega `, 'θ': `\theta `, 'η': `\eta `, 'Δ': `\Delta `, 'Φ': `\Phi `, 'Ω': `\Omega `,
}

// raised and lowered are the small digits and letters.
var (
	raised  = map[rune]string{'⁰': "0", '¹': "1", '²': "2", '³': "3", '⁴': "4", '⁵': "5", '⁶': "6", '⁷': "7", '⁸': "8", '⁹': "9", '⁻': "-", '⁺': "+", 'ⁿ': "n"}
	lowered = map[rune]string{'₀': "0", '₁': "1", '₂': "2", '₃': "3", '₄': "4", '₅': "5", '₆': "6", '₇': "7", '₈': "8", '₉': "9", 'ᵢ': "i", 'ⱼ': "j", 'ₖ': "k", 'ₙ': "n"}
)

// escapeLaTeX writes a text so that none of its signs is lost or taken for a command; what is mathematics
// stands in its mode.
func escapeLaTeX(s string) string {
	var out strings.Builder
	mode := "" // $, or that with a script open: ^ or _
	to := func(next string) {
		if next == mode {
			return
		}
		if mode == "^" || mode == "_" {
			out.WriteString("}")
		}
		switch {
		case mode == "" && next != "":
			out.WriteString("$")
		case mode != "" && next == "":
			out.WriteString("$")
		}
		if next == "^" || next == "_" {
			out.WriteString(next + "{")
		}
		mode = next
	}
	for i, r := range oneLine(s) {
		if script, is := raised[r]; is {
			to("^")
			out.WriteString(script)
			continue
		}
		if script, is := lowered[r]; is {
			to("_")
			out.WriteString(script)
			continue
		}
		if sign, is := latexMath[r]; is {
			to("$")
			out.WriteString(sign)
			continue
		}
		to("")
		sign, is := latexSigns[r]
		switch {
		case is:
			out.WriteString(sign)
		case i == 0 && (r == '[' || r == '*'): // what stands before it would take it for its own
			out.WriteString("{}" + string(r))
		case r < 0x80 || r >= 0xa1 && r <= 0x17f && unicode.IsLetter(r):
			out.WriteRune(r)
		default:
			out.WriteString(`\otherchar{` + strings.ToUpper(strconv.FormatInt(int64(r), 16)) + `}`)
		}
	}
	to("")
	return out.String()
}

var latexAddress = strings.NewReplacer(`\`, `\textbackslash{}`, `{`, `\{`, `}`, `\}`, `#`, `\#`, `%`, `\%`, `&`, `\&`, `_`, `\_`, `^`, `\^{}`, `~`, `\~{}`, `$`, `\$`)

var lastNumber = regexp.MustCompile(`\d+$`)

func latexRuns(runs []Run) string {
	var b strings.Builder
	for _, r := range runs {
		text := escapeLaTeX(r.Text)
		to, inside := strings.CutPrefix(r.Link, "#")
		if inside { // the number follows what it counts
			text = escapeLaTeX(lastNumber.ReplaceAllString(r.Text, "")) + `\ref*{` + to + `}`
		}
		for _, s := range []struct {
			is      bool
			command string
		}{{r.Code, "texttt"}, {r.Italic, "emph"}, {r.Bold, "textbf"}} {
			if s.is {
				text = `\` + s.command + `{` + text + `}`
			}
		}
		switch {
		case inside:
			text = `\hyperref[` + to + `]{` + text + `}`
		case r.Link != "":
			text = `\href{` + latexAddress.Replace(r.Link) + `}{` + text + `}`
		}
		b.WriteString(text)
		if r.Stale != "" {
			b.WriteString(` \emph{[` + escapeLaTeX(r.Stale) + `]}`)
		}
	}
	return b.String()
}
