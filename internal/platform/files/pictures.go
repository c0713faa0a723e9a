package files

import (
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"time"

	"github.com/kovidgoyal/imaging"
	"golang.org/x/image/webp"

	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/problem"
)

const (
	// MaxBytes is the largest picture that is taken.
	MaxBytes = 64 << 20
	// MaxPixels is how many pixels a picture may have, and MaxSide how many in a
	// row: no camera makes more, and a file of 62 kB can claim any number.
	MaxPixels = 50_000_000
	MaxSide   = 12_000
	// MaxOpened is how many bytes of memory a picture may take while it is
	// opened.
	MaxOpened = 512 << 20
)

// Widths in which pictures are shown, in pixels of their longer side. The
// original is kept as it came.
var Widths = []int{480, 1600}

var pictureTypes = []string{"image/png", "image/jpeg", "image/webp"}

// Prepared is a picture that was found good and lies on disk. Nothing knows of
// it until it is recorded.
type Prepared struct {
	name, kind string
	size       int64
	Width      int // upright, as a person sees it
	Height     int
}

// Prepare takes in an uploaded picture: its type is judged by its content, its
// size is limited, it is opened whole once, and it is on disk before the
// database knows of it. One picture is opened at a time, so that big ones take
// their turn and the rest of the shop goes on.
func (s *Store) Prepare(ctx context.Context, from io.Reader) (Prepared, error) {
	tmp, err := s.make(s.dir)
	if err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	defer os.Remove(tmp.Name())
	defer tmp.Close()
	head := make([]byte, 512)
	n, err := io.ReadFull(from, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return Prepared{}, fmt.Errorf("reading the upload: %w", err)
	}
	p := Prepared{kind: http.DetectContentType(head[:n])}
	if !slices.Contains(pictureTypes, p.kind) {
		return Prepared{}, problem.Invalid("wrong_type", "file", "This is not a PNG, JPEG or WebP picture. Nothing was stored.")
	}
	sum := sha256.New()
	both := io.MultiWriter(tmp, sum)
	if _, err := both.Write(head[:n]); err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	more, err := io.Copy(both, io.LimitReader(from, MaxBytes+1-int64(n)))
	if err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	if p.size = int64(n) + more; p.size > MaxBytes {
		return Prepared{}, problem.New(http.StatusRequestEntityTooLarge, "too_large", "file", "The picture is larger than %d MB. Nothing was stored; make it smaller and try again.", MaxBytes>>20)
	}
	if err := errors.Join(tmp.Sync(), tmp.Close()); err != nil {
		return Prepared{}, fmt.Errorf("storing the file: %w", err)
	}
	p.name = hex.EncodeToString(sum.Sum(nil))
	img, done, err := s.open(ctx, tmp.Name(), p.kind)
	if err != nil {
		return Prepared{}, err
	}
	defer done()
	p.Width, p.Height = img.Bounds().Dx(), img.Bounds().Dy()
	if err := s.reduce(p.name, img); err != nil {
		return Prepared{}, err
	}
	return p, s.place(tmp.Name(), p.name)
}

// Record makes a prepared picture known, inside an act.
func (s *Store) Record(ctx context.Context, tx database.Tx, p Prepared, at time.Time, person uint64) (File, error) {
	if _, err := tx.ExecContext(ctx, `INSERT INTO file (sha256, media_type, size, created_at, created_by) VALUES (?,?,?,?,NULLIF(?,0)) ON DUPLICATE KEY UPDATE id = id`, p.name, p.kind, p.size, at, person); err != nil {
		return File{}, fmt.Errorf("recording the file: %w", err)
	}
	var f File
	err := tx.GetContext(ctx, &f, `SELECT id, sha256, media_type, size, created_at FROM file WHERE sha256 = ?`, p.name)
	return f, err
}

// open decodes a picture, upright and in sRGB, when its turn has come; done
// gives the turn back once the picture was reduced. What cannot be opened whole
// is refused in words.
func (s *Store) open(ctx context.Context, file, kind string) (img image.Image, done func(), err error) {
	if done, err = s.turn.Take(ctx); err != nil {
		return nil, nil, err
	}
	if img, err = decode(file, kind); err != nil {
		done()
		return nil, nil, err
	}
	return img, done, nil
}

func decode(file, kind string) (img image.Image, err error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	broken := problem.Invalid("broken", "file", "The picture cannot be opened whole: it is damaged or cut off. Nothing was stored; export it again.")
	// A decoder that a hostile file throws off its track must not take the
	// shop with it.
	defer func() {
		if recover() != nil {
			img, err = nil, broken
		}
	}()
	read := map[string]struct {
		config func(io.Reader) (image.Config, error)
		decode func(io.Reader) (image.Image, error)
	}{
		"image/jpeg": {jpeg.DecodeConfig, func(r io.Reader) (image.Image, error) {
			return imaging.Decode(r, imaging.Backends(imaging.GO_IMAGE)) // turns it upright and into sRGB
		}},
		"image/png": {png.DecodeConfig, png.Decode}, "image/webp": {webp.DecodeConfig, webp.Decode},
	}[kind]
	size, err := read.config(bufio.NewReader(f))
	if err != nil || size.Width < 1 || size.Height < 1 {
		return nil, broken
	}
	if size.Width > MaxSide || size.Height > MaxSide || size.Width > MaxPixels/size.Height {
		return nil, problem.Invalid("too_large", "file", "The picture has %d by %d pixels; at most %d million are taken, and %d in a row. Nothing was stored.", size.Width, size.Height, MaxPixels/1_000_000, MaxSide)
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	if opened := openedBytes(f, kind, size); opened > MaxOpened {
		return nil, problem.Invalid("too_large", "file", "Opened, the picture would take %d MB; at most %d are taken. Save it with 8 bits, or smaller. Nothing was stored.", opened>>20, MaxOpened>>20)
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	if img, err = read.decode(bufio.NewReaderSize(f, 1<<16)); err != nil {
		return nil, broken
	}
	return img, nil
}

// reduce writes the views in which a picture is shown.
func (s *Store) reduce(name string, img image.Image) error {
	if err := os.MkdirAll(s.views(), 0o700); err != nil {
		return err
	}
	for _, width := range slices.Backward(Widths) {
		if b := img.Bounds(); b.Dx() > width || b.Dy() > width {
			img = imaging.Fit(img, width, width, imaging.Box)
		}
		tmp, err := os.CreateTemp(s.views(), "in-*")
		if err != nil {
			return fmt.Errorf("reducing the picture: %w", err)
		}
		err = jpeg.Encode(tmp, imaging.PasteOntoBackground(img, color.White), &jpeg.Options{Quality: 86})
		if err = errors.Join(err, tmp.Close()); err != nil {
			os.Remove(tmp.Name())
			return fmt.Errorf("reducing the picture: %w", err)
		}
		if err := os.Rename(tmp.Name(), s.viewPath(name, width)); err != nil {
			return err
		}
	}
	return nil
}

// Views follow from the originals, so they stand beside the folder of files and
// in no backup.
func (s *Store) views() string { return s.dir + ".views" }

func (s *Store) viewPath(name string, width int) string {
	return filepath.Join(s.views(), fmt.Sprintf("%s-%d.jpg", name, width))
}

// View opens a reduced view of a stored picture, a JPEG; it is made again when
// it is not there.
func (s *Store) View(ctx context.Context, name, kind string, width int) (*os.File, error) {
	if !slices.Contains(Widths, width) {
		return nil, problem.Invalid("unknown_value", "width", "Pictures are shown %v pixels wide.", Widths)
	}
	if !IsSum(name) {
		return nil, problem.NotFound("file", name)
	}
	f, err := os.Open(s.viewPath(name, width))
	if !errors.Is(err, os.ErrNotExist) {
		return f, err
	}
	img, done, err := s.open(ctx, s.path(name), kind)
	if err != nil {
		return nil, err
	}
	defer done()
	if err := s.reduce(name, img); err != nil {
		return nil, err
	}
	return os.Open(s.viewPath(name, width))
}

// Patch reads a square of a stored picture as sRGB code values, 0…255. x and y
// are shares of width and height, half is half its side as a share of the
// width. A large patch is sampled: thousands of pixels say the same as millions.
func (s *Store) Patch(ctx context.Context, name, kind string, x, y, half float64) ([][3]float64, error) {
	img, done, err := s.open(ctx, s.path(name), kind)
	if err != nil {
		return nil, err
	}
	defer done()
	b := img.Bounds()
	cx, cy, r := b.Min.X+int(x*float64(b.Dx())), b.Min.Y+int(y*float64(b.Dy())), max(1, int(half*float64(b.Dx())))
	step := max(1, r/48)
	var pixels [][3]float64
	for py := max(b.Min.Y, cy-r); py <= min(b.Max.Y-1, cy+r); py += step {
		for px := max(b.Min.X, cx-r); px <= min(b.Max.X-1, cx+r); px += step {
			c := color.NRGBAModel.Convert(img.At(px, py)).(color.NRGBA)
			pixels = append(pixels, [3]float64{float64(c.R), float64(c.G), float64(c.B)})
		}
	}
	return pixels, nil
}
