package plan

// draws is a splitmix64 generator (Steele, Lea and Flood 2014): the same seed draws the same on every machine.
type draws struct{ s uint64 }

func (d *draws) next() uint64 {
	d.s += 0x9e3779b97f4a7c15
	z := d.s
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// below draws a whole number in [0, n).
func (d *draws) below(n int) int {
	if n <= 1 {
		return 0
	}
	return int(d.next() >> 33 % uint64(n))
}

// chance tells whether something of a probability in hundredths happens.
func (d *draws) chance(hundredths int) bool { return d.below(100) < hundredths }
