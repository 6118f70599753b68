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

// maxBlob bounds a sound when it is unpacked.
const maxBlob = 512 << 20

// ReadArchive reads the document of a project archive.
func ReadArchive(data []byte) (document []byte, err error) {
	return readEntry(data, "project.json", maxDocument)
}

// ReadBlob reads a blob of a project archive. One whose SHA-256 is not its
// name is damaged.
func ReadBlob(archive []byte, name string) ([]byte, error) {
	blob, err := readEntry(archive, "blobs/"+name, maxBlob)
	if err != nil {
		return nil, err
	}
	if sum := sha256.Sum256(blob); hex.EncodeToString(sum[:]) != name {
		return nil, fail(CodeDamaged, "A sound in the project archive is damaged.")
	}
	return blob, nil
}

func readEntry(data []byte, name string, most int64) (document []byte, err error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fail(CodeDamaged, "This is not a project archive, or it is damaged.")
	}
	for _, f := range z.File {
		if f.Name != name {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, fail(CodeDamaged, "The project archive is damaged.")
		}
		defer func() { _ = r.Close() }()
		document, err = readAll(r, most)
		if err != nil {
			return nil, fail(CodeDamaged, "The project archive is damaged.")
		}
		return document, nil
	}
	return nil, fail(CodeDamaged, "The archive holds no %s.", name)
}
