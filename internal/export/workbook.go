package export

import (
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"
)

// workbook writes tables as a workbook, a sheet each, row by row; a number has the format in
// which it is shown, and a text that a spreadsheet might run is neutralised.
func workbook(w io.Writer, tables []*Table, names []string) error {
	f := excelize.NewFile()
	defer f.Close()
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	formats := map[int]int{}
	for _, n := range decimalsOf(tables) {
		pattern := "#,##0"
		if n > 0 {
			pattern += "." + strings.Repeat("0", n)
		}
		if formats[n], err = f.NewStyle(&excelize.Style{CustomNumFmt: &pattern}); err != nil {
			return fmt.Errorf("export: %w", err)
		}
	}
	for i, t := range tables {
		if i == 0 {
			err = f.SetSheetName("Sheet1", names[0])
		} else {
			_, err = f.NewSheet(names[i])
		}
		if err == nil {
			err = t.sheet(f, names[i], bold, formats)
		}
		if err != nil {
			return fmt.Errorf("export: %w", err)
		}
	}
	if _, err = f.WriteTo(w); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	return nil
}

func (t Table) sheet(f *excelize.File, name string, bold int, formats map[int]int) error {
	s, err := f.NewStreamWriter(name)
	if err != nil {
		return err
	}
	for i, n := range t.characters() {
		if err := s.SetColWidth(i+1, i+1, float64(n)); err != nil {
			return err
		}
	}
	n := 0
	put := func(cells ...any) error {
		n++
		at, err := excelize.CoordinatesToCellName(1, n)
		if err != nil {
			return err
		}
		return s.SetRow(at, cells)
	}
	head := []any{}
	for _, h := range t.Head {
		head = append(head, excelize.Cell{StyleID: bold, Value: neutral(h)})
	}
	lines := [][]any{{excelize.Cell{StyleID: bold, Value: neutral(t.caption())}}, head}
	for _, row := range t.Rows {
		cells := make([]any, len(row))
		for i, c := range row {
			if c.Number != nil {
				cells[i] = excelize.Cell{StyleID: formats[c.Decimals], Value: *c.Number}
			} else {
				cells[i] = neutral(c.Text)
			}
		}
		lines = append(lines, cells)
	}
	lines = append(lines, nil)
	for _, note := range t.Notes {
		lines = append(lines, []any{neutral(note)})
	}
	for _, l := range lines {
		if err := put(l...); err != nil {
			return err
		}
	}
	return s.Flush()
}
