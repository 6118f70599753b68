package format

import (
	"bytes"
	"encoding/binary"
	"errors"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/internal/peer"
	"jubrak/core/music"
)

func tone(rate, channels, frames int) *audio.Buffer {
	b := audio.New(rate, channels, frames)
	for c := range b.Channels {
		for i := range b.Channels[c] {
			b.Channels[c][i] = float32(0.6 * math.Sin(2*math.Pi*440*float64(i*(c+1))/float64(rate)))
		}
	}
	return b
}

func encode(t require.TestingT, b *audio.Buffer, f SampleFormat) []byte {
	var buf bytes.Buffer
	require.NoError(t, WriteWAV(&buf, b, f))
	return buf.Bytes()
}

func TestWAVRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := audio.New(rapid.SampledFrom([]int{8000, 44100, 48000, 192000}).Draw(t, "rate"), rapid.IntRange(1, 3).Draw(t, "channels"), rapid.IntRange(1, 300).Draw(t, "frames"))
		for _, ch := range b.Channels {
			for i := range ch {
				ch[i] = rapid.Float32Range(-1, 0.99).Draw(t, "sample")
			}
		}
		for f, step := range map[SampleFormat]float64{WAV16: 1.0 / (1 << 16), WAV24: 1.0 / (1 << 24), WAV32F: 0} {
			back, err := Decode(encode(t, b, f))
			require.NoError(t, err)
			assert.Equal(t, b.Rate, back.Rate)
			for c := range b.Channels {
				for i := range b.Channels[c] {
					assert.InDelta(t, b.Channels[c][i], back.Channels[c][i], step+1e-7)
				}
			}
		}
	})
}

// Library: ffprobe and sox read what we write, odd lengths included.
func TestWAVAsOthersReadIt(t *testing.T) {
	for f, kind := range map[SampleFormat]string{WAV16: "pcm_s16le", WAV24: "pcm_s24le", WAV32F: "pcm_f32le"} {
		path := filepath.Join(t.TempDir(), "x.wav")
		require.NoError(t, os.WriteFile(path, encode(t, tone(44100, 1, 4411), f), 0o644))
		out := peer.Run(t, "ffprobe", "-v", "warning", "-show_entries", "stream=codec_name,sample_rate,channels,duration_ts", "-of", "default=nw=1", path)
		assert.Contains(t, out, "codec_name="+kind)
		assert.Contains(t, out, "sample_rate=44100")
		assert.Contains(t, out, "duration_ts=4411")
		stat := peer.Run(t, "sox", path, "-n", "stat")
		assert.Contains(t, stat, "Samples read:              4411")
		assert.Contains(t, stat, "Maximum amplitude:     0.6000")
		assert.NotContains(t, strings.ToLower(stat), "warn")
	}
}

// Library: files that sox and ffmpeg wrote are read as they meant them.
func TestWAVFromOthers(t *testing.T) {
	dir := t.TempDir()
	source := filepath.Join(dir, "in.wav")
	want := tone(48000, 2, 4800)
	require.NoError(t, os.WriteFile(source, encode(t, want, WAV32F), 0o644))
	for name, args := range map[string][]string{
		"8.wav":          {"-b", "8"},
		"24ext.wav":      {"-b", "24"}, // sox writes WAVE_FORMAT_EXTENSIBLE
		"32.wav":         {"-b", "32"},
		"float64.wav":    {"-e", "floating-point", "-b", "64"},
		"from-sox.flac":  {"-b", "24"},
		"from-sox16.wav": {"-b", "16"},
		"16.aiff":        {"-b", "16"},
		"24.aiff":        {"-b", "24"},
		"8.aiff":         {"-b", "8"},
		"float.aifc":     {"-e", "floating-point", "-b", "32"},
	} {
		path := filepath.Join(dir, name)
		peer.Run(t, "sox", append(append([]string{"-D", source}, args...), path)...)
		compare(t, path, want, map[bool]float64{true: 0.009, false: 1e-4}[strings.HasPrefix(name, "8.")])
	}
	rf64 := filepath.Join(dir, "rf64.wav")
	peer.Run(t, "ffmpeg", "-v", "error", "-i", source, "-c:a", "pcm_s24le", "-rf64", "always", rf64)
	compare(t, rf64, want, 1e-5)
	mp3 := filepath.Join(dir, "x.mp3")
	peer.Run(t, "lame", "--quiet", "-b", "256", filepath.Join(dir, "from-sox16.wav"), mp3)
	compare(t, mp3, want, 0.05) // what the encoder put before and after is left out
	little := filepath.Join(dir, "little.aifc")
	peer.Run(t, "ffmpeg", "-v", "error", "-i", source, "-c:a", "pcm_s16le", "-f", "aiff", little)
	compare(t, little, want, 1e-4)
}

func compare(t *testing.T, path string, want *audio.Buffer, tolerance float64) {
	t.Helper()
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	b, err := Decode(data)
	require.NoError(t, err, path)
	require.Equal(t, want.Frames(), b.Frames(), path)
	for c := range want.Channels {
		for i := range want.Channels[c] {
			require.InDelta(t, want.Channels[c][i], b.Channels[c][i], tolerance, "%s, channel %d, frame %d", path, c, i)
		}
	}
}

// patch returns a copy with bytes written at a place.
func patch(b []byte, at int, with ...byte) []byte {
	out := bytes.Clone(b)
	copy(out[at:], with)
	return out
}

func TestBadFiles(t *testing.T) {
	good := encode(t, tone(44100, 2, 1000), WAV16)
	notANumber := tone(44100, 1, 100)
	notANumber.Channels[0][50] = float32(math.NaN())
	for name, c := range map[string]struct {
		data []byte
		code string
		says string
	}{
		"empty":             {nil, CodeEmpty, "empty"},
		"picture":           {append([]byte("\x89PNG\r\n\x1a\n"), make([]byte, 500)...), CodeUnknown, "not WAV, AIFF, FLAC or MP3"},
		"text":              {[]byte("hello, this is no sound"), CodeUnknown, "not a sound file"},
		"header only":       {good[:20], CodeTruncated, "ends"},
		"truncated":         {good[:len(good)/2], CodeTruncated, "cut short"},
		"0 Hz":              {patch(good, 24, 0, 0, 0, 0), CodeUnusable, "0 samples a second"},
		"1 Hz":              {patch(good, 24, 1, 0, 0, 0), CodeUnusable, "1 samples a second"},
		"no channels":       {patch(good, 22, 0, 0), CodeUnusable, "0 channels"},
		"compressed":        {patch(good, 20, 0x55, 0), CodeUnusable, "compressed"},
		"NaN":               {encode(t, notANumber, WAV32F), CodeDamaged, "not a number"},
		"no frames":         {encode(t, audio.New(44100, 1, 0), WAV24), CodeEmpty, "no sound"},
		"2 GB declared":     {patch(good, 40, 0, 0, 0, 0x80), CodeTruncated, "cut short"},
		"huge chunk":        {patch(good, 16, 0xFF, 0xFF, 0xFF, 0x7F), CodeDamaged, "damaged"},
		"damaged FLAC":      {append([]byte("fLaC"), make([]byte, 100)...), CodeDamaged, "FLAC"},
		"MP3 without sound": {append([]byte("ID3\x04\x00\x00\x00\x00\x00\x00"), make([]byte, 100)...), CodeDamaged, "MP3"},
	} {
		_, err := Decode(c.data)
		var e *Error
		require.ErrorAs(t, err, &e, name)
		assert.Equal(t, c.code, e.Code, "%s: %s", name, e.Message)
		assert.Contains(t, e.Message, c.says, name)
		assert.True(t, strings.HasSuffix(e.Message, "."), name)
	}
}

func TestDecodingIsWatchedAndStopped(t *testing.T) {
	data := encode(t, tone(44100, 2, 200000), WAV16)
	last := -1.0
	_, err := DecodeWatched(data, func(done float64) error {
		assert.GreaterOrEqual(t, done, last)
		last = done
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, last, 0.9)
	enough := errors.New("enough")
	_, err = DecodeWatched(data, func(done float64) error {
		if done > 0.5 {
			return enough
		}
		return nil
	})
	assert.ErrorIs(t, err, enough)
}

// A header that promises 2 GB costs no more than the bytes that are there.
func TestMemoryFollowsTheBytes(t *testing.T) {
	data := patch(encode(t, tone(44100, 2, 1000), WAV16), 40, 0, 0, 0, 0x80)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	_, err := Decode(data)
	runtime.ReadMemStats(&after)
	assert.Error(t, err)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(4<<20))
}

// Published: Standard MIDI Files 1.0, the table of variable-length
// quantities.
func TestVariableLengthQuantities(t *testing.T) {
	for v, want := range map[int][]byte{
		0: {0}, 0x40: {0x40}, 0x7F: {0x7F}, 0x80: {0x81, 0}, 0x2000: {0xC0, 0}, 0x3FFF: {0xFF, 0x7F}, 0x4000: {0x81, 0x80, 0},
		0x1FFFFF: {0xFF, 0xFF, 0x7F}, 0x200000: {0x81, 0x80, 0x80, 0}, 0x0FFFFFFF: {0xFF, 0xFF, 0xFF, 0x7F},
	} {
		assert.Equal(t, want, appendVarLen(nil, v), "%x", v)
		got, n := readVarLen(want)
		assert.Equal(t, v, got)
		assert.Equal(t, len(want), n)
	}
	_, n := readVarLen([]byte{0x80, 0x80, 0x80, 0x80, 0})
	assert.Zero(t, n, "five bytes are too many")
}

func TestMIDIRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := &Performance{PPQ: rapid.IntRange(24, 9600).Draw(t, "ppq"), Meter: music.Meter{Beats: rapid.IntRange(1, 12).Draw(t, "beats"), Unit: 4},
			Tempo: []MIDITempo{{0, rapid.IntRange(150000, 3000000).Draw(t, "micros")}}}
		tick := 0
		for range rapid.IntRange(1, 30).Draw(t, "notes") {
			tick += rapid.IntRange(1, 3000).Draw(t, "gap")
			p.Notes = append(p.Notes, MIDINote{Tick: tick, Length: rapid.IntRange(1, 900).Draw(t, "length"), Channel: 9, Key: 30 + len(p.Notes), Velocity: rapid.IntRange(1, 127).Draw(t, "velocity")})
		}
		var buf bytes.Buffer
		require.NoError(t, WriteMIDI(&buf, p, "x"))
		back, err := ReadMIDI(&buf)
		require.NoError(t, err)
		assert.Equal(t, p, back)
	})
}

// Published: Standard MIDI Files 1.0: 500,000 µs a quarter is 120 BPM, which
// is also what holds before any tempo event; running status; note on with
// velocity 0 ends a note.
func TestMIDIDetails(t *testing.T) {
	track := []byte{0, 0x99, 36, 100, 96, 36, 0, 0, 38, 90, 96, 38, 0, 0, 0xFF, 0x2F, 0}
	file := append([]byte("MThd\x00\x00\x00\x06\x00\x00\x00\x01\x00\x60MTrk"), binary.BigEndian.AppendUint32(nil, uint32(len(track)))...)
	p, err := ReadMIDI(bytes.NewReader(append(file, track...)))
	require.NoError(t, err)
	assert.Equal(t, []MIDINote{{0, 96, 9, 36, 100, 0}, {96, 96, 9, 38, 90, 0}}, p.Notes)
	assert.InDelta(t, 0.5, p.Seconds(96), 1e-12)
	p.Tempo = []MIDITempo{{0, 500000}, {96, 1000000}}
	assert.InDelta(t, 1.5, p.Seconds(192), 1e-12)
}

func TestBadMIDI(t *testing.T) {
	head := func(kind, division byte) []byte {
		return []byte{'M', 'T', 'h', 'd', 0, 0, 0, 6, 0, kind, 0, 1, division, 96, 'M', 'T', 'r', 'k', 0, 0, 0, 4}
	}
	for name, c := range map[string]struct {
		data []byte
		code string
	}{
		"empty":       {nil, CodeEmpty},
		"not MIDI":    {[]byte("RIFF12345678WAVE"), CodeUnknown},
		"format 2":    {append(head(2, 0), 0, 0xFF, 0x2F, 0), CodeUnusable},
		"film frames": {append(head(0, 0xE7), 0, 0xFF, 0x2F, 0), CodeUnusable},
		"no notes":    {append(head(0, 0), 0, 0xFF, 0x2F, 0), CodeEmpty},
		"cut short":   {append(head(0, 0), 0, 0x99), CodeTruncated},
		"mid-event":   {append(head(0, 0), 0, 0x99, 36, 0x80), CodeEmpty},
	} {
		_, err := ReadMIDI(bytes.NewReader(c.data))
		var e *Error
		require.ErrorAs(t, err, &e, name)
		assert.Equal(t, c.code, e.Code, "%s: %s", name, e.Message)
	}
}

func TestArchive(t *testing.T) {
	var buf bytes.Buffer
	require.NoError(t, WriteArchive(&buf, []byte(`{"a":1}`), map[string][]byte{"b": {1}, "a": {2}}))
	doc, err := documentOf(buf.Bytes())
	require.NoError(t, err)
	assert.JSONEq(t, `{"a":1}`, string(doc))
	var again bytes.Buffer
	require.NoError(t, WriteArchive(&again, []byte(`{"a":1}`), map[string][]byte{"a": {2}, "b": {1}}))
	assert.Equal(t, buf.Bytes(), again.Bytes())
	_, err = documentOf([]byte("PK nonsense"))
	assert.Error(t, err)
}

func FuzzReadWAV(f *testing.F) {
	for _, s := range []SampleFormat{WAV16, WAV24, WAV32F} {
		f.Add(encode(f, tone(44100, 2, 20), s))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := ReadWAV(bytes.NewReader(data))
		if err == nil && b.Frames()*len(b.Channels) > len(data) {
			t.Fatalf("%d samples from %d bytes", b.Frames()*len(b.Channels), len(data))
		}
	})
}

func FuzzReadAIFF(f *testing.F) {
	head := []byte("FORM\x00\x00\x00\x42AIFFCOMM\x00\x00\x00\x12\x00\x01\x00\x00\x00\x02\x00\x10\x40\x0e\xac\x44\x00\x00\x00\x00\x00\x00SSND\x00\x00\x00\x0c\x00\x00\x00\x00\x00\x00\x00\x00\x40\x00\xc0\x00")
	b, err := Decode(head)
	if err != nil || b.Rate != 44100 || b.Frames() != 2 || b.Channels[0][0] != 0.5 || b.Channels[0][1] != -0.5 {
		f.Fatal("the seed is not read as it is meant: ", err)
	}
	f.Add(head)
	f.Fuzz(func(t *testing.T, data []byte) {
		k := &keeper{}
		err := readAIFF(bytes.NewReader(data), k)
		b := k.b
		if err == nil && b.Frames()*len(b.Channels) > len(data) {
			t.Fatalf("%d samples from %d bytes", b.Frames()*len(b.Channels), len(data))
		}
	})
}

func FuzzReadMP3(f *testing.F) {
	// lame -b 8 -t of sox -n -r 8000 -c 1 t.wav synth 0.15 sine 500: small, so that many
	// inputs are tried.
	data, err := os.ReadFile("testdata/tiny.mp3")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data)
	f.Add([]byte{0xff, 0xe4, 0, 0, 0, 0xff, 0xe4, 0, 0, 0}) // two frames of a free bit rate
	f.Add(append([]byte("ID3\x04\x00\x00\x00\x00\x00\x00"), make([]byte, 100)...))
	f.Fuzz(func(t *testing.T, data []byte) {
		if len(data) == 0 {
			return
		}
		k := &keeper{size: len(data)}
		if readMP3(data, k, unwatched) == nil && k.b.Frames() > 1152*(len(data)/24+1) {
			t.Fatalf("%d frames from %d bytes", k.b.Frames(), len(data))
		}
	})
}

func FuzzReadMIDI(f *testing.F) {
	var buf bytes.Buffer
	_ = WriteMIDI(&buf, &Performance{PPQ: 96, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []MIDITempo{{0, 500000}}, Notes: []MIDINote{{0, 10, 9, 36, 100, 0}}}, "x")
	f.Add(buf.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := ReadMIDI(bytes.NewReader(data))
		if err == nil && (len(p.Notes) == 0 || p.PPQ <= 0) {
			t.Fatal("accepted nothing")
		}
	})
}

func FuzzReadArchive(f *testing.F) {
	var buf bytes.Buffer
	_ = WriteArchive(&buf, []byte("{}"), nil)
	f.Add(buf.Bytes())
	f.Fuzz(func(_ *testing.T, data []byte) { _, _ = documentOf(data) })
}

func documentOf(archive []byte) ([]byte, error) {
	a, err := OpenArchive(archive)
	if err != nil {
		return nil, err
	}
	_, _ = a.Blob("nobody")
	return a.Document()
}
