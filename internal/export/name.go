package export

import (
	"regexp"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

var apart = regexp.MustCompile(`[^a-z0-9]+`)

// FileName is the name of a file by what it holds and the day: in small letters without accents, its
// words parted by lines, such as “kerbside-collection-2026-11-29.docx”. otherwise stands for a title of
// which no letter is left; a day of zero is left out.
func FileName(title, otherwise string, day time.Time, extension string) string {
	const most = 60
	plain, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), strings.NewReplacer("ß", "ss", "ø", "o", "Ø", "o", "ł", "l", "Ł", "l", "æ", "ae", "Æ", "ae").Replace(title))
	if err != nil {
		plain = title
	}
	name := strings.Trim(apart.ReplaceAllString(strings.ToLower(plain), "-"), "-")
	if len(name) > most {
		name = name[:most]
		if at := strings.LastIndexByte(name, '-'); at > most/2 {
			name = name[:at]
		}
		name = strings.Trim(name, "-")
	}
	if name == "" {
		name = otherwise
	}
	if !day.IsZero() {
		name += "-" + day.Format("2006-01-02")
	}
	return name + "." + extension
}
