package format

import (
	"archive/zip"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"maps"
	"slices"
)

// WriteArchive writes a project archive (.jubrak): a zip with project.json
// at its root and each blob under blobs/, named by its SHA-256.
func WriteArchive(w io.Writer, document []byte, blobs map[string][]byte) error {
	z := zip.NewWriter(w)
	put := func(name string, data []byte) error {
		entry, err := z.Create(name)
		if err == nil {
			_, err = entry.Write(data)
		}
		return err
	}
	if err := put("project.json", document); err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(blobs)) {
		if err := put("blobs/"+name, blobs[name]); err != nil {
			return err
		}
	}
	return z.Close()
}

// maxDocument bounds project.json when it is unpacked.
const maxDocument = 64 << 20

// maxBlob bounds a sound when it is unpacked: as large as a file that is brought in.
const maxBlob = 256 << 20

// ProjectArchive is an archive that was opened for reading.
type ProjectArchive struct{ entries map[string]*zip.File }

// OpenArchive reads the directory of a project archive.
func OpenArchive(data []byte) (*ProjectArchive, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fail(CodeDamaged, "This is not a project archive, or it is damaged.")
	}
	a := &ProjectArchive{map[string]*zip.File{}}
	for _, f := range z.File {
		if a.entries[f.Name] == nil {
			a.entries[f.Name] = f
		}
	}
	return a, nil
}

// Document reads project.json.
func (a *ProjectArchive) Document() ([]byte, error) { return a.read("project.json", maxDocument) }

// Blob reads a sound. One whose SHA-256 is not its name is damaged.
func (a *ProjectArchive) Blob(name string) ([]byte, error) {
	blob, err := a.read("blobs/"+name, maxBlob)
	if err != nil {
		return nil, err
	}
	if sum := sha256.Sum256(blob); hex.EncodeToString(sum[:]) != name {
		return nil, fail(CodeDamaged, "A sound in the project archive is damaged.")
	}
	return blob, nil
}

// OpenBlob is a reader of a sound, which ends with an error where it is larger than one
// may be. Who reads it compares its SHA-256 with its name.
func (a *ProjectArchive) OpenBlob(name string) (io.ReadCloser, error) {
	f := a.entries["blobs/"+name]
	if f == nil || f.UncompressedSize64 > maxBlob {
		return nil, fail(CodeDamaged, "A sound in the project archive is missing or too large.")
	}
	r, err := f.Open()
	if err != nil {
		return nil, fail(CodeDamaged, "The project archive is damaged.")
	}
	return &bounded{r, maxBlob}, nil
}

// bounded is a reader that fails after so many bytes: what an archive says of a size may
// be wrong.
type bounded struct {
	io.ReadCloser
	left int64
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return n, fail(CodeTooLong, "A sound in the project archive is larger than %d MB.", maxBlob>>20)
	}
	return n, err
}

func (a *ProjectArchive) read(name string, most int64) ([]byte, error) {
	f := a.entries[name]
	if f == nil {
		return nil, fail(CodeDamaged, "The archive holds no %s, so it is not a project archive.", name)
	}
	r, err := f.Open()
	if err != nil {
		return nil, fail(CodeDamaged, "The project archive is damaged.")
	}
	defer func() { _ = r.Close() }()
	data, err := readAll(r, most)
	if err != nil {
		return nil, fail(CodeDamaged, "The project archive is damaged.")
	}
	return data, nil
}
