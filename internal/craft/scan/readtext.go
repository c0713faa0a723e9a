package scan

import (
	"bufio"
	"math"
	"strconv"
	"strings"
)

// number reads a coordinate; a word, NaN or an infinity is none.
func number(word string) (float64, bool) {
	v, err := strconv.ParseFloat(word, 64)
	return v, err == nil && !math.IsNaN(v) && !math.IsInf(v, 0)
}

// readASCIISTL reads facets in any number of solids. Coordinates are rounded to
// float32, so that they weld like those of a binary file.
func readASCIISTL(r *bufio.Reader, limit int) (*Raw, error) {
	out := &Raw{Format: "stl-ascii"}
	l := &lines{r: r}
	inSolid, inFacet, corners := false, false, 0
	for {
		text, more, err := l.next()
		if err != nil {
			return nil, err
		}
		if !more {
			break
		}
		words := strings.Fields(text)
		for i := 0; i < len(words); {
			word := strings.ToLower(words[i])
			i++
			switch word {
			case "solid":
				inSolid, i = true, len(words) // the rest is its name
			case "endsolid":
				inSolid, i = false, len(words)
				if inFacet {
					return nil, l.fault(BadSyntax, "a solid ends within a facet.")
				}
			case "facet":
				if inFacet {
					return nil, l.fault(BadSyntax, "a facet begins within a facet.")
				}
				inFacet, corners = true, 0
				if i < len(words) && strings.EqualFold(words[i], "normal") {
					i = min(len(words), i+4) // normals are not believed
				}
			case "outer", "loop", "endloop":
			case "vertex":
				if !inFacet || i+3 > len(words) {
					return nil, l.fault(BadSyntax, "a vertex needs three numbers within a facet.")
				}
				var p Vec
				for k := range 3 {
					v, ok := number(words[i+k])
					v32 := float32(v)
					if !ok || math.IsInf(float64(v32), 0) {
						return nil, l.fault(BadNumber, "“%.20s” is no number.", words[i+k])
					}
					p[k] = float64(v32)
				}
				i += 3
				if corners++; corners > 3 {
					return nil, l.fault(BadSyntax, "a facet has more than three vertices.")
				}
				out.Points = append(out.Points, p)
			case "endfacet":
				if !inFacet || corners != 3 {
					return nil, l.fault(BadSyntax, "a facet has %d vertices in place of three.", corners)
				}
				inFacet = false
				if out.Triangles() > limit {
					return nil, bad(TooManyTriangles, "file", "These are more than %d triangles. Thin the scan out first.", limit)
				}
			default:
				return nil, l.fault(BadSyntax, "“%.20s” has no place here.", word)
			}
		}
	}
	if inSolid || inFacet {
		return nil, bad(Truncated, "file", "The file ends before its solid does, after %d triangles: export it again.", out.Triangles())
	}
	if out.Triangles() == 0 {
		return nil, bad(NoTriangles, "file", "The file holds no triangles.")
	}
	return out, nil
}

// readOBJ reads places and faces; polygons become fans from their first corner.
func readOBJ(r *bufio.Reader, limit int) (*Raw, error) {
	out := &Raw{Format: "obj", Faces: [][3]int32{}}
	l := &lines{r: r}
	var face []int32
	for {
		text, more, err := l.next()
		if err != nil {
			return nil, err
		}
		if !more {
			break
		}
		if i := strings.IndexByte(text, '#'); i >= 0 {
			text = text[:i]
		}
		words := strings.Fields(text)
		if len(words) == 0 {
			continue
		}
		switch words[0] {
		case "v":
			if len(words) < 4 {
				return nil, bad(BadSyntax, "file", "Line %d: a place needs three numbers.", l.n)
			}
			var p Vec
			for k := range 3 {
				v, ok := number(words[1+k])
				if !ok {
					return nil, bad(BadNumber, "file", "Line %d: “%.20s” is no number.", l.n, words[1+k])
				}
				p[k] = v
			}
			if len(out.Points) >= 3*limit+3 {
				return nil, bad(TooManyTriangles, "file", "These are more places than %d triangles can have.", limit)
			}
			out.Points = append(out.Points, p)
		case "f":
			face = face[:0]
			for _, w := range words[1:] {
				ref, _, _ := strings.Cut(w, "/")
				n, err := strconv.Atoi(ref)
				if err != nil {
					return nil, bad(BadNumber, "file", "Line %d: “%.20s” names no place.", l.n, w)
				}
				if n < 0 {
					n += len(out.Points) + 1
				}
				if n < 1 || n > len(out.Points) {
					return nil, bad(BadIndex, "file", "Line %d names place %s; there are %d so far.", l.n, ref, len(out.Points))
				}
				face = append(face, int32(n-1))
			}
			if len(face) < 3 {
				return nil, bad(BadSyntax, "file", "Line %d: a face needs three corners or more.", l.n)
			}
			for k := 1; k+1 < len(face); k++ {
				out.Faces = append(out.Faces, [3]int32{face[0], face[k], face[k+1]})
			}
			if len(out.Faces) > limit {
				return nil, bad(TooManyTriangles, "file", "These are more than %d triangles. Thin the scan out first.", limit)
			}
		}
	}
	if len(out.Faces) == 0 {
		return nil, bad(NoTriangles, "file", "The file holds no faces.")
	}
	return out, nil
}
