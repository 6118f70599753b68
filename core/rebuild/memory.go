package rebuild

import (
	"fmt"

	"jubrak/core/audio"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Memory is a project without an application around it: its sounds are held in memory.
type Memory struct {
	Document *project.Document
	// Heard is the analysis of its only reference.
	Heard *transcribe.Analysis
	// Sounds are those of layers, by blob.
	Sounds sound.Samples
	// Name keeps a sound and names its blob; nil numbers them.
	Name func(b *audio.Buffer) (string, error)
}

// NewMemory is an empty project with one reference, whose blob may be empty.
func NewMemory(name string, ref project.Reference, heard *transcribe.Analysis) (*Memory, error) {
	m := &Memory{Heard: heard, Sounds: sound.Samples{}}
	ref.Name = name
	d, _, err := project.New(name).Apply(project.Edits{project.AddReference{Reference: ref}}, m)
	m.Document = d
	return m, err
}

// Analysis is that of the reference.
func (m *Memory) Analysis(*project.Reference) (*transcribe.Analysis, error) { return m.Heard, nil }

// Host makes the changes of a rebuild in memory; show may be nil.
func (m *Memory) Host(show func(stages []Stage, done float64)) *Host {
	if show == nil {
		show = func([]Stage, float64) {}
	}
	return &Host{
		Put: func(edits project.Edits) (*project.Document, error) {
			d, _, err := m.Document.Apply(edits, m)
			if err == nil {
				m.Document = d
			}
			return d, err
		},
		Keep: func(b *audio.Buffer) (string, func(), error) {
			name := fmt.Sprintf("%064d", len(m.Sounds)+1)
			if m.Name != nil {
				var err error
				if name, err = m.Name(b); err != nil {
					return "", nil, err
				}
			}
			m.Sounds[name] = &sound.Sample{Rate: b.Rate, X: b.Channels}
			return name, func() {}, nil
		},
		Samples: func(*project.Document) sound.Samples { return m.Sounds },
		Env:     m, Show: show,
	}
}
