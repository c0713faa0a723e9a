package texture

import (
	"context"
	"math"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Autocorrelation finds where the relief comes back on itself: the highest
// peak of its masked correlation beyond the main lobe.
func Autocorrelation(ctx context.Context, f *Field) (peak, lag float64, at P, err error) {
	k := (max(f.NX, f.NY) + 255) / 256
	nx, ny := f.NX/k, f.NY/k
	if nx < 1 || ny < 1 {
		return 0, 0, P{}, nil
	}
	z, in := make([]float64, nx*ny), make([]bool, nx*ny)
	err = byRows(ctx, ny, func(b band) {
		for j := b.from; j < b.to; j++ {
			for i := range nx {
				var sum float64
				n := 0
				for y := j * k; y < (j+1)*k; y++ {
					for x := i * k; x < (i+1)*k; x++ {
						if f.In[y*f.NX+x] {
							sum += f.Z[y*f.NX+x]
							n++
						}
					}
				}
				if 2*n >= k*k {
					z[j*nx+i], in[j*nx+i] = sum/float64(n), true
				}
			}
		}
	})
	if err != nil {
		return 0, 0, P{}, err
	}
	var mean, variance float64
	n := 0
	for i, is := range in {
		if is {
			mean += z[i]
			n++
		}
	}
	if n < 16 {
		return 0, 0, P{}, nil
	}
	mean /= float64(n)
	for i, is := range in {
		if is {
			z[i] -= mean
			variance += z[i] * z[i]
		} else {
			z[i] = 0
		}
	}
	variance /= float64(n)
	if variance < 1e-18 {
		return 0, 0, P{}, nil
	}
	c, err := correlate(ctx, z, in, nx, ny, n, variance)
	if err != nil {
		return 0, 0, P{}, err
	}
	peak, lag, at = c.peak(nx, ny)
	h := f.H * float64(k)
	return peak, lag * h, P{at[0] * h, at[1] * h}, nil
}

// lags is a correlation by lag; NaN where too little overlaps.
type lags struct {
	px, py, rows int // rows that were worked out, from lag 0 up
	c            []float64
}

// at is the correlation at a lag; it is the same at the opposite one.
func (l lags) at(dx, dy int) float64 {
	if dy < 0 {
		dx, dy = -dx, -dy
	}
	if dy >= l.rows {
		return math.NaN()
	}
	if dx < 0 {
		dx += l.px
	}
	return l.c[dy*l.px+dx]
}

func powerOfTwo(n int) int {
	p := 1
	for p < n {
		p *= 2
	}
	return p
}

// correlate is corr(f·m)/corr(m)/variance at every lag that overlaps by 30 %.
// Both correlations come from one transform: the field is its real part, the
// mask its imaginary.
func correlate(ctx context.Context, z []float64, in []bool, nx, ny, n int, variance float64) (lags, error) {
	px, py := powerOfTwo(2*nx), powerOfTwo(2*ny)
	a := make([]complex128, px*py)
	for j := range ny {
		for i := range nx {
			if in[j*nx+i] {
				a[j*px+i] = complex(z[j*nx+i], 1)
			}
		}
	}
	// Rows beyond the field are empty and stay so.
	if err := transformRows(ctx, a, px, ny, 0, false); err != nil {
		return lags{}, err
	}
	if err := transformColumns(ctx, a, px, py, false); err != nil {
		return lags{}, err
	}
	power := make([]complex128, px*py)
	for j := range py {
		for i := range px {
			p, q := a[j*px+i], a[((py-j)%py)*px+(px-i)%px]
			q = complex(real(q), -imag(q))
			field, mask := (p+q)/2, (p-q)/complex(0, 2)
			power[j*px+i] = complex(real(field)*real(field)+imag(field)*imag(field), real(mask)*real(mask)+imag(mask)*imag(mask))
		}
	}
	if err := transformColumns(ctx, power, px, py, true); err != nil {
		return lags{}, err
	}
	// Lags beyond half the field are not looked at.
	rows := min(py, ny/2+2)
	if err := transformRows(ctx, power, px, rows, 0, true); err != nil {
		return lags{}, err
	}
	out := lags{px, py, rows, make([]float64, px*rows)}
	least, size := 0.3*float64(n), float64(px*py)
	for k, p := range power[:px*rows] {
		if overlap := imag(p) / size; overlap >= least {
			out.c[k] = real(p) / size / overlap / variance
		} else {
			out.c[k] = math.NaN()
		}
	}
	return out, nil
}

func transformed(fft *fourier.CmplxFFT, line []complex128, back bool) {
	if back {
		fft.Sequence(line, line)
	} else {
		fft.Coefficients(line, line)
	}
}

// transformRows transforms rows from first on.
func transformRows(ctx context.Context, a []complex128, px, rows, first int, back bool) error {
	return byRows(ctx, rows, func(b band) {
		fft := fourier.NewCmplxFFT(px)
		for j := first + b.from; j < first+b.to; j++ {
			transformed(fft, a[j*px:(j+1)*px], back)
		}
	})
}

// transformColumns transforms every column, some at a time so that what a
// processor fetches at once is used at once.
func transformColumns(ctx context.Context, a []complex128, px, py int, back bool) error {
	const together = 8
	return byRows(ctx, (px+together-1)/together, func(b band) {
		fft := fourier.NewCmplxFFT(py)
		block := make([]complex128, together*py)
		for at := b.from * together; at < min(px, b.to*together); at += together {
			n := min(together, px-at)
			for j := range py {
				for i := range n {
					block[i*py+j] = a[j*px+at+i]
				}
			}
			for i := range n {
				transformed(fft, block[i*py:(i+1)*py], back)
			}
			for j := range py {
				for i := range n {
					a[j*px+at+i] = block[i*py+j]
				}
			}
		}
	})
}

// peak is the highest local maximum beyond the main lobe, the nearest of those
// that are about as high.
func (l lags) peak(nx, ny int) (value, lag float64, at P) {
	reach := min(nx, ny) / 2
	sums, counts := make([]float64, reach+2), make([]int, reach+2)
	for dy := 0; dy <= reach+1; dy++ {
		for dx := -reach - 1; dx <= reach+1; dx++ {
			ring := int(math.Floor(math.Sqrt(float64(dx*dx+dy*dy)) + 0.5))
			if c := l.at(dx, dy); ring < len(sums) && !math.IsNaN(c) {
				n := 2 // the opposite lag has the same
				if dy == 0 {
					n = 1
				}
				sums[ring] += float64(n) * c
				counts[ring] += n
			}
		}
	}
	lobe := -1
	for r := 1; r <= reach; r++ {
		if counts[r] > 0 && sums[r]/float64(counts[r]) < 0.2 {
			lobe = r
			break
		}
	}
	if lobe < 0 {
		return 0, 0, P{}
	}
	type top struct {
		c, d float64
		at   P
	}
	var tops []top
	for dy := 0; dy <= reach; dy++ {
		for dx := -reach; dx <= reach; dx++ {
			d := math.Sqrt(float64(dx*dx + dy*dy))
			if d < float64(lobe) || d > float64(reach) {
				continue
			}
			c := l.at(dx, dy)
			if !(c > 0) || !l.highest(dx, dy, c) {
				continue
			}
			tops = append(tops, top{c, d, P{float64(dx), float64(dy)}})
			value = math.Max(value, c)
		}
	}
	lag = math.Inf(1)
	for _, t := range tops {
		if t.c >= value-0.02 && t.d < lag {
			lag, at = t.d, t.at
		}
	}
	if len(tops) == 0 {
		return 0, 0, P{}
	}
	return value, lag, at
}

func (l lags) highest(dx, dy int, c float64) bool {
	for y := dy - 1; y <= dy+1; y++ {
		for x := dx - 1; x <= dx+1; x++ {
			if (x != dx || y != dy) && l.at(x, y) > c {
				return false
			}
		}
	}
	return true
}
