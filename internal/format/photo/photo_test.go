package photo_test

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/format/photo"
)

// corners is a picture of 40 by 20 whose corners are red, green, blue and black, clockwise
// from the upper left one.
func corners() *image.RGBA {
	img := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for y := range 20 {
		for x := range 40 {
			c := []color.RGBA{{255, 0, 0, 255}, {0, 255, 0, 255}, {0, 0, 0, 255}, {0, 0, 255, 255}}[x/20+2*(y/10)]
			img.SetRGBA(x, y, c)
		}
	}
	return img
}

// held is a JPEG with an Exif segment that says how it was held, and a place.
func held(t *testing.T, orientation int, order binary.AppendByteOrder) []byte {
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, corners(), &jpeg.Options{Quality: 100}))
	tiff := []byte("II*\x00")
	if order.String() == binary.BigEndian.String() {
		tiff = []byte("MM\x00*")
	}
	u16 := func(v int) { tiff = order.AppendUint16(tiff, uint16(v)) }
	u32 := func(v int) { tiff = order.AppendUint32(tiff, uint32(v)) }
	u32(8)
	u16(2)
	u16(0x0112)
	u16(3)
	u32(1)
	u16(orientation)
	u16(0)
	u16(0x8825) // where it was taken
	u16(4)
	u32(1)
	u32(0)
	u32(0)
	tiff = append(tiff, "47 deg 12 min north"...)
	body := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{0xff, 0xd8, 0xff, 0xe1}, binary.BigEndian.AppendUint16(nil, uint16(len(body)+2))...)
	return append(append(out, body...), b.Bytes()[2:]...)
}

// name is the nearest of the four colours.
func name(c color.Color) string {
	r, g, b, _ := c.RGBA()
	switch {
	case r > 0x8000:
		return "red"
	case g > 0x8000:
		return "green"
	case b > 0x8000:
		return "blue"
	}
	return "black"
}

// However the camera was held, the picture comes out upright: what each orientation means
// is the table of the standard, where the row and column 0 of the file are (EXIF 2.32,
// 4.6.4, tag 0x0112).
func TestPicturesComeOutUprightAndClean(t *testing.T) {
	for orientation, want := range map[int][4]string{ // clockwise from the upper left corner
		0: {"red", "green", "blue", "black"}, 1: {"red", "green", "blue", "black"}, 2: {"green", "red", "black", "blue"}, 3: {"blue", "black", "red", "green"},
		4: {"black", "blue", "green", "red"}, 5: {"red", "black", "blue", "green"}, 6: {"black", "red", "green", "blue"}, 7: {"blue", "green", "red", "black"},
		8: {"green", "blue", "black", "red"}, 9: {"red", "green", "blue", "black"},
	} {
		for _, order := range []binary.AppendByteOrder{binary.LittleEndian, binary.BigEndian} {
			sent := held(t, orientation, order)
			require.Contains(t, string(sent), "47 deg")
			out, err := photo.Clean(sent)
			require.NoError(t, err)
			assert.NotContains(t, string(out), "Exif")
			assert.NotContains(t, string(out), "47 deg")
			img, err := jpeg.Decode(bytes.NewReader(out))
			require.NoError(t, err)
			w, h := img.Bounds().Dx(), img.Bounds().Dy()
			if orientation >= 5 && orientation <= 8 {
				assert.Equal(t, [2]int{20, 40}, [2]int{w, h}, orientation)
			} else {
				assert.Equal(t, [2]int{40, 20}, [2]int{w, h}, orientation)
			}
			got := [4]string{name(img.At(3, 3)), name(img.At(w-4, 3)), name(img.At(w-4, h-4)), name(img.At(3, h-4))}
			assert.Equal(t, want, got, "orientation %d", orientation)
		}
	}
}

func TestWhatIsNoPhotoIsRefused(t *testing.T) {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, corners()))
	whole := b.Bytes()
	for name, bad := range map[string][]byte{"nothing": nil, "text": []byte("GIF89a"), "half a file": whole[:60], "a page": []byte("<svg onload=alert(1)>")} {
		_, err := photo.Clean(bad)
		assert.ErrorIs(t, err, photo.ErrKind, name)
	}
	// A head that says 60 000 by 60 000, with its checksum right.
	bomb := bytes.Clone(whole[:33])
	binary.BigEndian.PutUint32(bomb[16:], 60_000)
	binary.BigEndian.PutUint32(bomb[20:], 60_000)
	binary.BigEndian.PutUint32(bomb[29:], crc32.ChecksumIEEE(bomb[12:29]))
	_, err := photo.Clean(bomb)
	assert.ErrorIs(t, err, photo.ErrPixels)

	// What stands behind the picture is not kept, and a large one gets smaller.
	large := image.NewGray(image.Rect(0, 0, 4000, 1000))
	b.Reset()
	require.NoError(t, png.Encode(&b, large))
	out, err := photo.Clean(append(b.Bytes(), "PK\x03\x04 a second file"...))
	require.NoError(t, err)
	assert.NotContains(t, string(out), "second file")
	c, err := jpeg.DecodeConfig(bytes.NewReader(out))
	require.NoError(t, err)
	assert.Equal(t, [2]int{2560, 640}, [2]int{c.Width, c.Height})
	assert.Less(t, math.Abs(float64(c.Width)/float64(c.Height)-4), 0.01)
}

func FuzzClean(f *testing.F) {
	var b bytes.Buffer
	_ = png.Encode(&b, corners())
	f.Add(b.Bytes())
	f.Add([]byte("\xff\xd8\xff\xe1\x00\x10Exif\x00\x00MM\x00*\x00\x00\x00\x08"))
	f.Fuzz(func(t *testing.T, sent []byte) {
		out, err := photo.Clean(sent)
		if err != nil {
			assert.Empty(t, out)
			return
		}
		_, err = jpeg.Decode(bytes.NewReader(out))
		assert.NoError(t, err)
	})
}
