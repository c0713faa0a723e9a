package demo

// How the pieces were studied, and how their copies are photographed: the same invented
// growth, once as a drawing and once as a cast in somebody's hand, with a grey card.

import (
	"hash/fnv"
	"image"
	"image/color"
	"math"

	"yewmoor/internal/craft/colour"
	"yewmoor/internal/station/check"
)

// studyW and studyH are the size of a study, in pixels.
const studyW, studyH = 960, 720

// ofPiece is the seed of what grows on a piece.
func ofPiece(code string) uint64 {
	h := fnv.New32a()
	_, _ = h.Write([]byte(code))
	return uint64(h.Sum32())
}

// studied draws the study of a piece that it is compared with.
func studied(code string) ([]byte, error) {
	return pictured(code, ofPiece(code), studyW, studyH, color.RGBA{176, 160, 138, 255})
}

// held is how a copy lies in its picture against its study: turned, a little smaller, and
// shifted; different for each.
type held struct {
	turn, scale, dx, dy float64
	warm                [3]float64 // of the lamp, linear
}

func holding(copyCode string) held {
	n := ofPiece(copyCode)
	at := func(k uint64) float64 { return float64(n/k%1000)/500 - 1 }
	return held{turn: 0.05 * at(1), scale: 0.86 + 0.03*at(7), dx: 70 + 12*at(11), dy: 48 + 9*at(13), warm: [3]float64{1, 0.93 + 0.02*at(17), 0.8 + 0.04*at(19)}}
}

// of is where a place of the study lies in the picture.
func (p held) of(x, y float64) (float64, float64) {
	sin, cos := math.Sincos(p.turn)
	return p.dx + p.scale*(cos*x-sin*y), p.dy + p.scale*(sin*x+cos*y)
}

// back is where a place of the picture lies in the study.
func (p held) back(x, y float64) (float64, float64) {
	sin, cos := math.Sincos(p.turn)
	u, v := (x-p.dx)/p.scale, (y-p.dy)/p.scale
	return cos*u + sin*v, -sin*u + cos*v
}

// greys are the fields of the card that lies in the picture, sRGB.
var greys = []uint8{243, 200, 118, 85, 52}

// cardAt is where a field of the card lies, in pixels.
func cardAt(i int) (x, y int) { return 28, 470 + 46*i }

// copyPicture draws a copy as it would be photographed from the front on a grey sheet, a
// card at its side, under a warm lamp.
func copyPicture(piece, copyCode string) ([]byte, error) {
	study := grown(piece, ofPiece(piece), studyW, studyH).shaded(color.RGBA{179, 160, 136, 255})
	hand := holding(copyCode)
	img := image.NewRGBA(image.Rect(0, 0, studyW, studyH))
	for y := range studyH {
		for x := range studyW {
			c := color.RGBA{141, 141, 141, 255}
			if u, v := hand.back(float64(x), float64(y)); u >= 0 && v >= 0 && u < studyW && v < studyH {
				c = study.RGBAAt(int(u), int(v))
			}
			img.SetRGBA(x, y, c)
		}
	}
	for i, g := range greys {
		cx, cy := cardAt(i)
		for y := cy - 20; y < cy+20; y++ {
			for x := cx - 20; x < cx+20; x++ {
				img.SetRGBA(x, y, color.RGBA{g, g, g, 255})
			}
		}
	}
	for i := 0; i < len(img.Pix); i += 4 {
		for k := range 3 {
			img.Pix[i+k] = seenAs(img.Pix[i+k], hand.warm[k])
		}
	}
	return asPNG(img)
}

// seenAs is a code value under a lamp that has so much of its channel.
func seenAs(code uint8, share float64) uint8 {
	v := colour.Decode(float64(code)) * share
	if v <= 0.0031308 {
		return uint8(255*12.92*v + 0.5)
	}
	return uint8(255*(1.055*math.Pow(v, 1/2.4)-0.055) + 0.5)
}

// landmarks are places of a study that are found again on every copy.
var landmarks = []struct {
	name string
	x, y float64
}{{"upper rim", 0.16, 0.14}, {"brow end", 0.82, 0.12}, {"middle", 0.5, 0.46}, {"near corner", 0.2, 0.82}, {"far corner", 0.84, 0.8}, {"ridge", 0.66, 0.34}}

// widthMM is how wide a study is on the wearer, mm.
const widthMM = 96.0

// aboutStudy are the landmarks of a study, and its scale.
func aboutStudy() check.About {
	mm := widthMM
	out := check.About{MMAcross: &mm, Fields: []check.CardField{}}
	for _, l := range landmarks {
		out.Marks = append(out.Marks, check.Landmark{Name: l.name, X: l.x, Y: l.y})
	}
	return out
}

// aboutCopy are those of a copy's picture, set by a hand that is never exact, and the card.
func aboutCopy(copyCode string) check.About {
	out := check.About{}
	hand := holding(copyCode)
	for i, l := range landmarks {
		x, y := hand.of(l.x*studyW, l.y*studyH)
		off := 2.2 * math.Sin(float64(3*i+len(copyCode)))
		out.Marks = append(out.Marks, check.Landmark{Name: l.name, X: (x + off) / studyW, Y: (y - off/2) / studyH})
	}
	for i, g := range greys {
		x, y := cardAt(i)
		out.Fields = append(out.Fields, check.CardField{X: float64(x) / studyW, Y: float64(y) / studyH, Is: [3]float64{float64(g), float64(g), float64(g)}})
	}
	return out
}
