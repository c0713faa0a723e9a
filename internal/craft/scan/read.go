package scan

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"io"
	"math"
	"strings"
)

// MaxTriangles is the most that are read when nobody says.
const MaxTriangles = 5_000_000

// sniff is how much of a file is looked at to tell what it is.
const sniff = 64 << 10

// block is how much is read at a time.
const block = 1 << 20

// Read reads a surface of size bytes. The name is only a hint; the content
// decides (handbook, section 1). limit 0 means MaxTriangles.
func Read(name string, from io.Reader, size int64, limit int) (*Raw, error) {
	r, err := read(name, from, size, limit)
	if err != nil {
		return nil, err
	}
	for i, p := range r.Points {
		if !p.within(farthest) {
			return nil, bad(TooFar, "file", "Corner %d lies %.0g units away: no scan of a person is that large. Export it again.", i+1, max(math.Abs(p[0]), math.Abs(p[1]), math.Abs(p[2])))
		}
	}
	return r, nil
}

// farthest is how far a corner may lie from the origin, in the file's units: ten
// metres in micrometres. Beyond, areas and volumes lose their figures.
const farthest = 1e7

func (a Vec) within(d float64) bool {
	return math.Abs(a[0]) <= d && math.Abs(a[1]) <= d && math.Abs(a[2]) <= d
}

func read(name string, from io.Reader, size int64, limit int) (*Raw, error) {
	if limit <= 0 {
		limit = MaxTriangles
	}
	r := bufio.NewReaderSize(from, block)
	head, err := r.Peek(sniff)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, bufio.ErrBufferFull) {
		return nil, err
	}
	if len(head) == 0 {
		return nil, bad(EmptyFile, "file", "The file is empty. Export it again.")
	}
	name = strings.ToLower(name)
	noZero := bytes.IndexByte(head[:min(len(head), 1024)], 0) < 0
	announced := int64(-1)
	if len(head) >= 84 {
		announced = 84 + 50*int64(binary.LittleEndian.Uint32(head[80:]))
	}
	switch {
	case bytes.HasPrefix(head, []byte("ply\n")) || bytes.HasPrefix(head, []byte("ply\r")):
		return readPLY(r, limit)
	case announced == size:
		return readBinarySTL(r, size, limit)
	case noZero && startsSolid(head) && hasWord(head, "facet", "endsolid"):
		return readASCIISTL(r, limit)
	case strings.HasSuffix(name, ".stl"):
		return readBinarySTL(r, size, limit)
	case noZero && (strings.HasSuffix(name, ".obj") || bytes.HasPrefix(head, []byte("v ")) || bytes.Contains(head, []byte("\nv "))):
		return readOBJ(r, limit)
	}
	return nil, bad(UnknownFormat, "file", "This is no STL, OBJ or PLY that could be recognised. Export the scan as one of them.")
}

func startsSolid(head []byte) bool {
	f := bytes.Fields(head[:min(len(head), 1024)])
	return len(f) > 0 && strings.EqualFold(string(f[0]), "solid")
}

func hasWord(head []byte, words ...string) bool {
	low := bytes.ToLower(head)
	for _, w := range words {
		if bytes.Contains(low, []byte(w)) {
			return true
		}
	}
	return false
}

// readBinarySTL reads records of 50 bytes. Sizes are compared before anything
// is allocated: a lying count never causes an allocation.
func readBinarySTL(r *bufio.Reader, size int64, limit int) (*Raw, error) {
	var head [84]byte
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return nil, bad(Truncated, "file", "The file ends within its header. Export it again.")
	}
	n := int64(binary.LittleEndian.Uint32(head[80:]))
	there := (size - 84) / 50
	switch {
	case n == 0:
		return nil, bad(NoTriangles, "file", "The file holds no triangles.")
	case there < n:
		return nil, bad(Truncated, "file", "The file says %d triangles but ends after %d: export it again.", n, max(0, there))
	case n > int64(limit):
		return nil, bad(TooManyTriangles, "file", "%d triangles are more than %d. Thin the scan out first.", n, limit)
	}
	// Each place stands about six times in such a file. Equal ones are made one
	// while they are read, so that it takes a quarter of the memory.
	out := &Raw{Format: "stl-binary", Faces: make([][3]int32, n), Trailing: size > 84+50*n, welded: true}
	at := newBits(int(n))
	buf := make([]byte, 50*20_000)
	for done := int64(0); done < n; {
		k := min(n-done, 20_000)
		if _, err := io.ReadFull(r, buf[:50*k]); err != nil {
			return nil, bad(Truncated, "file", "The file says %d triangles but ends after about %d: export it again.", n, done)
		}
		for i := range k {
			rec := buf[50*i+12 : 50*i+48]
			face := &out.Faces[done+i]
			for c := range 3 {
				var p [3]uint32
				for x := range 3 {
					v := binary.LittleEndian.Uint32(rec[12*c+4*x:])
					// An exponent of all ones is no number.
					if v&0x7F800000 == 0x7F800000 {
						return nil, bad(BadNumber, "file", "Triangle %d has a coordinate that is no number.", done+i+1)
					}
					if v == 0x80000000 {
						v = 0 // −0 is 0
					}
					p[x] = v
				}
				face[c] = at.find(p)
			}
		}
		done += k
	}
	out.Points = make([]Vec, len(at.all))
	for i, p := range at.all {
		for x := range 3 {
			out.Points[i][x] = float64(math.Float32frombits(p[x]))
		}
	}
	return out, nil
}

// bits finds equal places of single precision: open addressing on their bits,
// growing with what there is, never with what a file announces.
type bits struct {
	slots []int32
	all   [][3]uint32
}

func newBits(triangles int) *bits {
	size := 1 << 10
	for size < triangles { // about half as many places as triangles
		size *= 2
	}
	return &bits{slots: make([]int32, size), all: make([][3]uint32, 0, triangles/2+64)}
}

func (b *bits) slot(p [3]uint32) int {
	h := uint64(p[0])<<32 | uint64(p[1])
	h = (h ^ uint64(p[2])*0x9E3779B97F4A7C15) * 0xBF58476D1CE4E5B9
	h ^= h >> 31
	mask := len(b.slots) - 1
	for at := int(h>>7) & mask; ; at = (at + 1) & mask {
		if s := b.slots[at]; s == 0 || b.all[s-1] == p {
			return at
		}
	}
}

func (b *bits) find(p [3]uint32) int32 {
	at := b.slot(p)
	if s := b.slots[at]; s != 0 {
		return s - 1
	}
	b.all = append(b.all, p)
	b.slots[at] = int32(len(b.all))
	if 5*len(b.all) > 3*len(b.slots) {
		b.slots = make([]int32, 2*len(b.slots))
		for i, q := range b.all {
			b.slots[b.slot(q)] = int32(i) + 1
		}
	}
	return int32(len(b.all)) - 1
}

// lines reads a text line by line, with what is needed to say where it broke.
type lines struct {
	r    *bufio.Reader
	n    int
	done bool
	// chain is how long a line may be.
}

// maxLine is the longest line of a text file.
const maxLine = 1 << 20

func (l *lines) next() (string, bool, error) {
	if l.done {
		return "", false, nil
	}
	l.n++
	text, err := l.r.ReadSlice('\n')
	for errors.Is(err, bufio.ErrBufferFull) {
		return "", false, bad(BadSyntax, "file", "Line %d is longer than %d kB.", l.n, maxLine>>10)
	}
	if err != nil {
		l.done = true
		if len(text) == 0 {
			return "", false, nil
		}
	}
	return string(text), true, nil
}

// last tells whether nothing but blanks follows.
func (l *lines) last() bool {
	for {
		if l.done {
			return true
		}
		b, err := l.r.Peek(1)
		if err != nil {
			return true
		}
		if b[0] != ' ' && b[0] != '\n' && b[0] != '\r' && b[0] != '\t' {
			return false
		}
		_, _ = l.r.Discard(1)
	}
}

// fault is a refusal at a line; on the very last line the file was cut off.
func (l *lines) fault(code, format string, args ...any) error {
	if l.last() {
		return bad(Truncated, "file", "The file breaks off in line %d: export it again.", l.n)
	}
	return bad(code, "file", "Line %d: "+format, append([]any{l.n}, args...)...)
}
