package form

import "math"

// Vec is a point or direction in mm: X to the wearer's left, Y up, Z forward.
type Vec struct{ X, Y, Z float64 }

func (a Vec) add(b Vec) Vec             { return Vec{a.X + b.X, a.Y + b.Y, a.Z + b.Z} }
func (a Vec) sub(b Vec) Vec             { return Vec{a.X - b.X, a.Y - b.Y, a.Z - b.Z} }
func (a Vec) scale(k float64) Vec       { return Vec{k * a.X, k * a.Y, k * a.Z} }
func (a Vec) dot(b Vec) float64         { return a.X*b.X + a.Y*b.Y + a.Z*b.Z }
func (a Vec) length() float64           { return math.Sqrt(a.dot(a)) }
func (a Vec) Distance(b Vec) float64    { return a.sub(b).length() }
func (a Vec) lerp(b Vec, t float64) Vec { return a.add(b.sub(a).scale(t)) }

func (a Vec) cross(b Vec) Vec {
	return Vec{a.Y*b.Z - a.Z*b.Y, a.Z*b.X - a.X*b.Z, a.X*b.Y - a.Y*b.X}
}

// bell is a smooth weight: 1 at 0, 0.61 at one width.
func bell(d, width float64) float64 { return math.Exp(-d * d / (2 * width * width)) }

// ramp rises smoothly from 0 at a to 1 at b; a may be above b.
func ramp(x, a, b float64) float64 {
	t := math.Max(0, math.Min(1, (x-a)/(b-a)))
	return t * t * (3 - 2*t)
}
