package scan

import (
	"bufio"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"strconv"
	"strings"
)

// plySizes of scalar types, both spellings; the last letter says how it is
// read: i signed, u unsigned, f floating.
var plySizes = map[string]struct {
	size int
	kind byte
}{
	"char": {1, 'i'}, "int8": {1, 'i'}, "uchar": {1, 'u'}, "uint8": {1, 'u'}, "short": {2, 'i'}, "int16": {2, 'i'}, "ushort": {2, 'u'}, "uint16": {2, 'u'},
	"int": {4, 'i'}, "int32": {4, 'i'}, "uint": {4, 'u'}, "uint32": {4, 'u'}, "float": {4, 'f'}, "float32": {4, 'f'}, "double": {8, 'f'}, "float64": {8, 'f'},
}

type plyProperty struct {
	name, count, kind string // count is the type of a list's length
}

type plyElement struct {
	name       string
	n          int
	properties []plyProperty
}

// maxList is the most entries of one list: no face has more corners.
const maxList = 10_000

func readPLY(r *bufio.Reader, limit int) (*Raw, error) {
	elements, ascii, err := plyHeader(r)
	if err != nil {
		return nil, err
	}
	out := &Raw{Format: map[bool]string{true: "ply-ascii", false: "ply-binary-le"}[ascii], Faces: [][3]int32{}}
	faces, vertices := 0, 0
	for _, e := range elements {
		switch e.name {
		case "face":
			faces += e.n
		case "vertex":
			vertices += e.n
		}
	}
	if faces == 0 {
		return nil, bad(NoTriangles, "file", "This is a point cloud: it has places and no faces. Let the scanner's program make a mesh of it.")
	}
	if faces > limit || vertices > 3*limit+3 {
		return nil, bad(TooManyTriangles, "file", "%d faces are more than %d. Thin the scan out first.", faces, limit)
	}
	body := plyBody{r: r, ascii: ascii}
	for _, e := range elements {
		if err := body.element(e, out, limit); err != nil {
			return nil, err
		}
	}
	for _, f := range out.Faces {
		for _, i := range f {
			if int(i) >= len(out.Points) {
				return nil, bad(BadIndex, "file", "A face names place %d; there are %d.", i+1, len(out.Points))
			}
		}
	}
	if len(out.Faces) == 0 {
		return nil, bad(NoTriangles, "file", "No face of the file has three corners.")
	}
	return out, nil
}

func plyHeader(r *bufio.Reader) (elements []plyElement, ascii bool, err error) {
	format := ""
	for n := 0; ; n++ {
		text, err := r.ReadSlice('\n')
		if err != nil || n > 1000 {
			return nil, false, bad(BadHeader, "file", "The header does not end. Export the scan again.")
		}
		words := strings.Fields(string(text))
		if len(words) == 0 || words[0] == "ply" || words[0] == "comment" || words[0] == "obj_info" {
			continue
		}
		switch {
		case words[0] == "end_header":
			return plyChecked(elements, format)
		case words[0] == "format" && len(words) >= 2:
			format = words[1]
		case words[0] == "element" && len(words) == 3:
			count, err := strconv.Atoi(words[2])
			if err != nil || count < 0 {
				return nil, false, bad(BadHeader, "file", "The header's count of %.20s is no number.", words[1])
			}
			elements = append(elements, plyElement{name: words[1], n: count})
		case words[0] == "property" && len(elements) > 0 && len(words) == 3:
			e := &elements[len(elements)-1]
			e.properties = append(e.properties, plyProperty{words[2], "", words[1]})
		case words[0] == "property" && len(elements) > 0 && len(words) == 5 && words[1] == "list":
			e := &elements[len(elements)-1]
			e.properties = append(e.properties, plyProperty{words[4], words[2], words[3]})
		default:
			return nil, false, bad(BadHeader, "file", "The header's line “%.40s” cannot be read.", strings.TrimSpace(string(text)))
		}
	}
}

func plyChecked(elements []plyElement, format string) ([]plyElement, bool, error) {
	if format == "binary_big_endian" {
		return nil, false, bad(UnsupportedEncoding, "file", "This PLY has its bytes the other way round (big endian). Export it as little endian or ASCII.")
	}
	if format != "ascii" && format != "binary_little_endian" {
		return nil, false, bad(BadHeader, "file", "The header names no format that is known.")
	}
	places := false
	for _, e := range elements {
		named := map[string]bool{}
		for _, p := range e.properties {
			named[p.name] = p.count == ""
			if _, ok := plySizes[p.kind]; !ok {
				return nil, false, bad(BadHeader, "file", "The header names the type “%.20s”, which is none.", p.kind)
			}
			if size, ok := plySizes[p.count]; p.count != "" && (!ok || size.kind == 'f') {
				return nil, false, bad(BadHeader, "file", "A list's length cannot be of the type “%.20s”.", p.count)
			}
		}
		places = places || e.name == "vertex" && named["x"] && named["y"] && named["z"]
	}
	if !places {
		return nil, false, bad(BadHeader, "file", "The header has no places with x, y and z.")
	}
	return elements, format == "ascii", nil
}

// plyBody reads values one after the other, from text or bytes.
type plyBody struct {
	r     *bufio.Reader
	ascii bool
	words []string
	buf   [8]byte
}

var errCut = errors.New("cut off")

func (b *plyBody) value(kind string) (float64, error) {
	if b.ascii {
		for len(b.words) == 0 {
			text, err := b.r.ReadSlice('\n')
			if errors.Is(err, bufio.ErrBufferFull) || err != nil && len(text) == 0 {
				return 0, errCut
			}
			b.words = strings.Fields(string(text))
		}
		w := b.words[0]
		b.words = b.words[1:]
		v, err := strconv.ParseFloat(w, 64)
		if err != nil {
			return 0, bad(BadNumber, "file", "“%.20s” is no number.", w)
		}
		return v, nil
	}
	t := plySizes[kind]
	raw := b.buf[:t.size]
	if _, err := io.ReadFull(b.r, raw); err != nil {
		return 0, errCut
	}
	var bits uint64
	for i := range raw {
		bits |= uint64(raw[i]) << (8 * i)
	}
	switch {
	case t.kind == 'f' && t.size == 4:
		return float64(math.Float32frombits(uint32(bits))), nil
	case t.kind == 'f':
		return math.Float64frombits(binary.LittleEndian.Uint64(raw)), nil
	case t.kind == 'i':
		shift := 64 - 8*t.size
		return float64(int64(bits<<shift) >> shift), nil
	}
	return float64(bits), nil
}

func (b *plyBody) element(e plyElement, out *Raw, limit int) error {
	cut := func(i int) error {
		return bad(Truncated, "file", "The file says %d of “%.20s” but ends after %d: export it again.", e.n, e.name, i)
	}
	var corners []int32
	for i := range e.n {
		var p Vec
		for _, prop := range e.properties {
			if prop.count == "" {
				v, err := b.value(prop.kind)
				if err == errCut {
					return cut(i)
				}
				if err != nil {
					return err
				}
				if k := strings.Index("xyz", prop.name); e.name == "vertex" && len(prop.name) == 1 && k >= 0 {
					p[k] = v
				}
				continue
			}
			n, err := b.value(prop.count)
			if err == errCut {
				return cut(i)
			}
			if err != nil {
				return err
			}
			if !(n >= 0 && n <= maxList) || n != math.Trunc(n) {
				return bad(BadSyntax, "file", "A list of “%.20s” has %g entries.", e.name, n)
			}
			corners = corners[:0]
			isFace := e.name == "face" && (prop.name == "vertex_indices" || prop.name == "vertex_index")
			for range int(n) {
				v, err := b.value(prop.kind)
				if err == errCut {
					return cut(i)
				}
				if err != nil {
					return err
				}
				if isFace {
					if !(v >= 0 && v < math.MaxInt32) || v != math.Trunc(v) {
						return bad(BadIndex, "file", "Face %d names place %g.", i+1, v)
					}
					corners = append(corners, int32(v))
				}
			}
			for k := 1; k+1 < len(corners); k++ {
				out.Faces = append(out.Faces, [3]int32{corners[0], corners[k], corners[k+1]})
			}
			if len(out.Faces) > limit {
				return bad(TooManyTriangles, "file", "These are more than %d triangles. Thin the scan out first.", limit)
			}
		}
		if e.name == "vertex" {
			if !p.finite() {
				return bad(BadNumber, "file", "Place %d has a coordinate that is no number.", i+1)
			}
			out.Points = append(out.Points, p)
		}
	}
	return nil
}
