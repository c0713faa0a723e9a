package section

import (
	"strconv"
	"strings"
)

func plural(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return strconv.Itoa(n) + " " + noun + "s"
}

// millimetres writes a length with two useful digits: 6.2 mm, 0.18 mm, 0.006 mm.
func millimetres(mm float64) string {
	places := 1
	switch {
	case mm < 0.0995 && mm != 0:
		places = 3
	case mm < 1:
		places = 2
	}
	text := strconv.FormatFloat(mm, 'f', places, 64)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return text + " mm"
}
