// Package quantity reads and writes the amounts that people type at a bench:
// grams, ounces, spoons, drops, inches, fractions. Inside the craft everything
// is in g, ml, mm, °C and s; this package is the door between the two.
package quantity

import (
	"math"
	"strconv"
	"strings"
	"unicode/utf8"

	"yewmoor/internal/craft/refusal"
)

// Kind is what an amount measures.
type Kind string

// Kinds and the unit each is held in.
const (
	Mass        Kind = "mass"        // g
	Volume      Kind = "volume"      // ml
	Length      Kind = "length"      // mm
	Area        Kind = "area"        // cm²
	Temperature Kind = "temperature" // °C
	Duration    Kind = "duration"    // s
)

// Quantity is an amount in the base unit of its kind.
type Quantity struct {
	Kind  Kind    `json:"kind"`
	Value float64 `json:"value"`
	// Text is what the person typed, kept for the record.
	Text string `json:"text"`
}

// DropML is the default volume of one drop: twenty to the millilitre. A lot
// whose drops were weighed has a figure of its own.
const DropML = 0.05

type unit struct {
	kind   Kind
	factor float64
	offset float64 // added before the factor; only temperatures have one
}

// Avoirdupois ounces and pounds, international inches, metric kitchen spoons
// (5 and 15 ml) and a 240 ml cup.
var units = map[string]unit{
	"g": {Mass, 1, 0}, "gram": {Mass, 1, 0}, "grams": {Mass, 1, 0}, "gr": {Mass, 1, 0},
	"mg": {Mass, 0.001, 0}, "kg": {Mass, 1000, 0}, "kilo": {Mass, 1000, 0}, "kilos": {Mass, 1000, 0},
	"oz": {Mass, 28.349523125, 0}, "ounce": {Mass, 28.349523125, 0}, "ounces": {Mass, 28.349523125, 0},
	"lb": {Mass, 453.59237, 0}, "lbs": {Mass, 453.59237, 0}, "pound": {Mass, 453.59237, 0}, "pounds": {Mass, 453.59237, 0},
	"ml": {Volume, 1, 0}, "cl": {Volume, 10, 0}, "l": {Volume, 1000, 0}, "litre": {Volume, 1000, 0}, "litres": {Volume, 1000, 0},
	"cc": {Volume, 1, 0}, "cm3": {Volume, 1, 0}, "cm³": {Volume, 1, 0},
	"tsp": {Volume, 5, 0}, "teaspoon": {Volume, 5, 0}, "teaspoons": {Volume, 5, 0},
	"tbsp": {Volume, 15, 0}, "tablespoon": {Volume, 15, 0}, "tablespoons": {Volume, 15, 0},
	"cup": {Volume, 240, 0}, "cups": {Volume, 240, 0},
	"drop": {Volume, DropML, 0}, "drops": {Volume, DropML, 0},
	"floz": {Volume, 29.5735295625, 0}, "fl oz": {Volume, 29.5735295625, 0},
	"mm": {Length, 1, 0}, "cm": {Length, 10, 0}, "m": {Length, 1000, 0}, "µm": {Length, 0.001, 0}, "um": {Length, 0.001, 0},
	"in": {Length, 25.4, 0}, "inch": {Length, 25.4, 0}, "inches": {Length, 25.4, 0}, "\"": {Length, 25.4, 0}, "ft": {Length, 304.8, 0},
	"cm2": {Area, 1, 0}, "cm²": {Area, 1, 0}, "sq cm": {Area, 1, 0}, "mm2": {Area, 0.01, 0}, "mm²": {Area, 0.01, 0},
	"m2": {Area, 1e4, 0}, "m²": {Area, 1e4, 0}, "in2": {Area, 6.4516, 0}, "in²": {Area, 6.4516, 0}, "sq in": {Area, 6.4516, 0},
	"c": {Temperature, 1, 0}, "°c": {Temperature, 1, 0}, "f": {Temperature, 5.0 / 9, -32}, "°f": {Temperature, 5.0 / 9, -32},
	"s": {Duration, 1, 0}, "sec": {Duration, 1, 0}, "secs": {Duration, 1, 0}, "seconds": {Duration, 1, 0},
	"min": {Duration, 60, 0}, "mins": {Duration, 60, 0}, "minutes": {Duration, 60, 0},
	"h": {Duration, 3600, 0}, "hr": {Duration, 3600, 0}, "hrs": {Duration, 3600, 0}, "hours": {Duration, 3600, 0},
	"d": {Duration, 86400, 0}, "day": {Duration, 86400, 0}, "days": {Duration, 86400, 0},
}

// BaseUnit is the unit in which a kind is held and shown.
func BaseUnit(k Kind) string {
	return map[Kind]string{Mass: "g", Volume: "ml", Length: "mm", Area: "cm²", Temperature: "°C", Duration: "s"}[k]
}

// Parse reads text as an amount of the wanted kind. A bare number takes the
// kind's base unit. densityGPerML lets spoons and drops answer for grams and
// grams for millilitres; zero means unknown, and then such a text is refused
// with wrong_unit. Field is the name to report in a refusal.
func Parse(text string, want Kind, densityGPerML float64, field string) (Quantity, error) {
	shown := strings.TrimSpace(text)
	s := strings.ToLower(shown)
	if s == "" {
		return Quantity{}, refusal.New(refusal.Missing, field, "An amount is missing, for example 350 %s.", BaseUnit(want))
	}
	if !utf8.ValidString(s) || len(s) > 64 {
		return Quantity{}, notAQuantity(field, shown, want)
	}
	number, rest, err := leadingNumber(s, field, shown, want)
	if err != nil {
		return Quantity{}, err
	}
	name := strings.Join(strings.Fields(strings.TrimSuffix(rest, ".")), " ")
	u, known := units[name]
	if name == "" {
		u, known = unit{kind: want, factor: 1}, true
	}
	if !known {
		return Quantity{}, refusal.New(refusal.NotAQuantity, field, "“%s” is not a unit we know. Write for example 350 %s.", name, BaseUnit(want))
	}
	q := Quantity{Kind: want, Value: (number + u.offset) * u.factor, Text: shown}
	switch {
	case u.kind == want:
	case u.kind == Volume && want == Mass && densityGPerML > 0:
		q.Value *= densityGPerML
	case u.kind == Mass && want == Volume && densityGPerML > 0:
		q.Value /= densityGPerML
	case (u.kind == Volume && want == Mass) || (u.kind == Mass && want == Volume):
		return Quantity{}, refusal.New(refusal.WrongUnit, field, "The density is not known, so “%s” cannot be turned into %s. Weigh it, or enter a density.", shown, BaseUnit(want))
	default:
		return Quantity{}, refusal.New(refusal.WrongUnit, field, "“%s” is a %s; a %s is asked for.", shown, u.kind, want)
	}
	if math.IsInf(q.Value, 0) || math.IsNaN(q.Value) || math.Abs(q.Value) > 1e9 {
		return Quantity{}, refusal.New(refusal.OutOfRange, field, "“%s” is too large to be meant.", shown)
	}
	if want != Temperature && q.Value < 0 {
		return Quantity{}, refusal.New(refusal.OutOfRange, field, "“%s” is below zero.", shown)
	}
	return q, nil
}

func notAQuantity(field, shown string, want Kind) *refusal.Error {
	return refusal.New(refusal.NotAQuantity, field, "“%.40s” is not an amount. Write for example 350 %s.", shown, BaseUnit(want))
}

var vulgar = map[rune]string{'½': "1/2", '¼': "1/4", '¾': "3/4", '⅓': "1/3", '⅔': "2/3", '⅛': "1/8", '⅜': "3/8", '⅝': "5/8", '⅞': "7/8"}

// leadingNumber reads "1.5", "1,5", "1/4", "1 1/4", "½" and "1½" and returns
// what follows. "1,500" is refused: it means 1.5 to some and 1500 to others.
func leadingNumber(s, field, shown string, want Kind) (float64, string, error) {
	var b strings.Builder
	for _, r := range s {
		if v, ok := vulgar[r]; ok {
			b.WriteString(" " + v + " ")
		} else if r == '\u00a0' || r == '\u202f' {
			b.WriteByte(' ')
		} else if r == '−' {
			b.WriteByte('-')
		} else {
			b.WriteRune(r)
		}
	}
	rest := strings.TrimSpace(b.String())
	sign := 1.0
	if strings.HasPrefix(rest, "-") {
		sign, rest = -1, strings.TrimSpace(rest[1:])
	}
	total, parts := 0.0, 0
	for parts < 2 {
		end := strings.IndexFunc(rest, func(r rune) bool { return !strings.ContainsRune("0123456789.,/", r) })
		if end < 0 {
			end = len(rest)
		}
		token := rest[:end]
		if token == "" {
			break
		}
		isFraction := strings.Contains(token, "/")
		if parts == 1 && !isFraction {
			return 0, "", notAQuantity(field, shown, want)
		}
		v, err := oneNumber(token, field, shown, want)
		if err != nil {
			return 0, "", err
		}
		total += v
		parts++
		rest = strings.TrimSpace(rest[end:])
		if isFraction {
			break
		}
	}
	if parts == 0 {
		return 0, "", notAQuantity(field, shown, want)
	}
	return sign * total, rest, nil
}

func oneNumber(token, field, shown string, want Kind) (float64, error) {
	if top, bottom, ok := strings.Cut(token, "/"); ok {
		a, errA := strconv.ParseFloat(top, 64)
		b, errB := strconv.ParseFloat(bottom, 64)
		if errA != nil || errB != nil || b == 0 {
			return 0, notAQuantity(field, shown, want)
		}
		return a / b, nil
	}
	if before, after, ok := strings.Cut(token, ","); ok {
		if strings.ContainsAny(after, ",.") || before == "" || after == "" {
			return 0, notAQuantity(field, shown, want)
		}
		if len(after) == 3 {
			return 0, refusal.New(refusal.Ambiguous, field, "“%s” could mean %s%s or %s.%s. Please write it without the comma.", shown, before, after, before, after)
		}
		token = before + "." + after
	}
	v, err := strconv.ParseFloat(token, 64)
	if err != nil {
		return 0, notAQuantity(field, shown, want)
	}
	return v, nil
}

// Grams rounds a mass to the 0.0001 g of the records.
func Grams(g float64) float64 { return math.Round(g*1e4) / 1e4 }

// Tenth rounds half up to 0.1 g, the step of a pour sheet.
func Tenth(g float64) float64 { return math.Floor(g*10+0.5+1e-9) / 10 }

// FormatMass writes a mass as people read it: 0.35 g, 58.4 g, 1.25 kg.
func FormatMass(g float64) string {
	switch a := math.Abs(g); {
	case a >= 1000:
		return trimZeros(g/1000, 2) + " kg"
	case a >= 1 || a == 0:
		return strconv.FormatFloat(g, 'f', 1, 64) + " g"
	default:
		return strconv.FormatFloat(g, 'f', 2, 64) + " g"
	}
}

// FormatLength writes a length with two useful digits: 6.2 mm, 0.18 mm, 0.006 mm.
func FormatLength(mm float64) string {
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

// FormatDuration writes seconds as people read them: 45 s, 12 min, 3 h 50, 2 d 4 h.
func FormatDuration(seconds float64) string {
	s := int64(math.Round(math.Abs(seconds)))
	minutes := (s + 30) / 60
	switch {
	case s < 90:
		return strconv.FormatInt(s, 10) + " s"
	case minutes < 60:
		return strconv.FormatInt(minutes, 10) + " min"
	case minutes < 48*60:
		text := strconv.FormatInt(minutes/60, 10) + " h"
		if m := minutes % 60; m > 0 {
			text += " " + twoDigits(m)
		}
		return text
	default:
		hours := (minutes + 30) / 60
		return strconv.FormatInt(hours/24, 10) + " d " + strconv.FormatInt(hours%24, 10) + " h"
	}
}

func twoDigits(n int64) string {
	if n < 10 {
		return "0" + strconv.FormatInt(n, 10)
	}
	return strconv.FormatInt(n, 10)
}

func trimZeros(v float64, places int) string {
	s := strconv.FormatFloat(v, 'f', places, 64)
	return strings.TrimSuffix(strings.TrimRight(s, "0"), ".")
}
