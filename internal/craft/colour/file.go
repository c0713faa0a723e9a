package colour

import (
	"encoding/csv"
	"math"
	"strconv"
	"strings"

	"yewmoor/internal/craft/refusal"
)

// Series is one column of a file of spectra. Resampled says that it did not come in the
// bands that are reckoned with.
type Series struct {
	Name      string
	Values    Spectrum
	Resampled bool
}

// The widest file that is read.
const (
	mostSeries = 64
	mostRows   = 1000
)

// ReadSeries reads spectra from text: a column of wavelengths in nm and one or more of
// values, or one wavelength a column; parted by comma, semicolon or tab; a comma may be the
// decimal sign where another parts. Files of 380 to 730 or 400 to 700 nm at 5, 10 or 20 nm
// are brought to the bands by straight lines, with their ends held. Values are taken as they
// stand: what they may be is their reader's business. Refusals at file: E_TYPE, E_BANDS,
// E_NOT_FINITE.
func ReadSeries(text string) ([]Series, error) {
	rows, err := readRows(text)
	if err != nil {
		return nil, err
	}
	names := []string{}
	if _, err := figure(rows[0][0]); err != nil || strings.TrimSpace(rows[0][0]) == "" {
		names, rows = rows[0][1:], rows[1:]
	}
	// One wavelength a column: the head is the wavelengths.
	if wide(names) {
		turned := make([][]string, len(names))
		for i, n := range names {
			turned[i] = []string{n}
			for _, r := range rows {
				if len(r) != len(names)+1 {
					return nil, refusal.New("E_BANDS", "file", "“%.20s” has %d values for %d wavelengths.", r[0], len(r)-1, len(names))
				}
				turned[i] = append(turned[i], r[i+1])
			}
		}
		names = nil
		for _, r := range rows {
			names = append(names, r[0])
		}
		rows = turned
	}
	if len(rows) < 2 || len(rows[0]) < 2 || len(rows[0]) > mostSeries+1 {
		return nil, refusal.New("E_BANDS", "file", "A file of spectra has a column of wavelengths and 1 to %d of values.", mostSeries)
	}
	at := make([]float64, len(rows))
	values := make([][]float64, len(rows[0])-1)
	for i, r := range rows {
		if len(r) != len(rows[0]) {
			return nil, refusal.New("E_BANDS", "file", "Line %d has %d columns, the first has %d.", i+1, len(r), len(rows[0]))
		}
		for c, text := range r {
			v, err := figure(text)
			if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
				return nil, refusal.New("E_NOT_FINITE", "file", "“%.20s” in line %d is no number.", text, i+1)
			}
			if c == 0 {
				at[i] = v
			} else {
				values[c-1] = append(values[c-1], v)
			}
		}
	}
	again, err := steps(at)
	if err != nil {
		return nil, err
	}
	out := make([]Series, len(values))
	for c := range values {
		out[c].Resampled = again
		if c < len(names) {
			out[c].Name = strings.TrimSpace(names[c])
		}
		for i := range Bands {
			out[c].Values[i] = between(at, values[c], float64(nm(i)))
		}
	}
	return out, nil
}

func readRows(text string) ([][]string, error) {
	text = strings.TrimPrefix(strings.TrimSpace(text), "\ufeff")
	r := csv.NewReader(strings.NewReader(text))
	r.Comment, r.FieldsPerRecord, r.TrimLeadingSpace = '#', -1, true
	head, _, _ := strings.Cut(text, "\n")
	for _, mark := range "\t;" {
		if strings.ContainsRune(head, mark) {
			r.Comma = mark
		}
	}
	rows, err := r.ReadAll()
	if err != nil || len(rows) < 2 {
		return nil, refusal.New("E_TYPE", "file", "This is no list of wavelengths and values.")
	}
	if len(rows) > mostRows {
		return nil, refusal.New("E_BANDS", "file", "More than %d lines: no instrument writes so fine a spectrum.", mostRows)
	}
	return rows, nil
}

// wide says whether a head is wavelengths.
func wide(names []string) bool {
	for _, n := range names {
		if v, err := figure(n); err != nil || v < 300 || v > 900 {
			return false
		}
	}
	return len(names) >= 8
}

func figure(text string) (float64, error) {
	text = strings.TrimSuffix(strings.ToLower(strings.TrimSpace(text)), "nm")
	return strconv.ParseFloat(strings.Replace(strings.TrimSpace(text), ",", ".", 1), 64)
}

// steps asks whether wavelengths are those of a file that is read, and whether it has to be
// brought to the bands.
func steps(at []float64) (again bool, err error) {
	first, last, n := at[0], at[len(at)-1], len(at)
	step := (last - first) / float64(n-1)
	for i, v := range at {
		if math.Abs(v-first-step*float64(i)) > 0.01 {
			return false, refusal.New("E_BANDS", "file", "The wavelengths do not run in even steps: %g nm in line %d.", v, i+1)
		}
	}
	if first > 400 || last < 700 || step < 0.5 || step > 20.01 {
		return false, refusal.New("E_BANDS", "file", "Wavelengths run from 400 nm or less to 700 or more in steps of at most 20; these run from %g to %g in steps of %g.",
			first, last, math.Round(10*step)/10)
	}
	return first != 380 || last != float64(nm(Bands-1)) || step != 10, nil
}

// between is the value at a wavelength by straight lines, the ends held.
func between(at, v []float64, x float64) float64 {
	switch n := len(at); {
	case x <= at[0]:
		return v[0]
	case x >= at[n-1]:
		return v[n-1]
	default:
		step := (at[n-1] - at[0]) / float64(n-1)
		i := min(int((x-at[0])/step), n-2)
		f := (x - at[i]) / (at[i+1] - at[i])
		return v[i] + f*(v[i+1]-v[i])
	}
}
