package project

import (
	"fmt"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/music"
)

// Edits of the song as a whole and of its feel.
var songEdits = map[string]Edit{
	"project.rename": RenameProject{}, "project.key": SetKey{}, "groove.bars": SetBars{}, "groove.grid": SetGrid{}, "groove.clear": Clear{},
	"feel.pair": SetPair{}, "feel.scatter_kind": SetScatterKind{}, "feel.seed": SetSeed{}, "feel.straight": Straighten{},
}

// RenameProject gives the project another name.
type RenameProject struct {
	// Name has 1 to 120 letters.
	Name string `json:"name"`
}

func (e RenameProject) apply(d *Document, _ Env) ([]string, error) {
	d.Name = strings.TrimSpace(e.Name)
	return nil, nil
}

func (e RenameProject) name(_, after *Document) string {
	return fmt.Sprintf("Project renamed to %s", after.Name)
}

// SetKey notes the key that the song is in.
type SetKey struct {
	// Key is as musicians write it, such as Gm; empty for none.
	Key string `json:"key"`
}

func (e SetKey) apply(d *Document, _ Env) ([]string, error) {
	key := strings.TrimSpace(e.Key)
	if key != "" {
		if _, err := music.ParseKey(key); err != nil {
			return nil, err
		}
	}
	d.Key = key
	return nil, nil
}

func (e SetKey) name(_, after *Document) string { return "Key " + after.Key }

// SetBars changes the length of the groove. Hits beyond the new end go.
type SetBars struct {
	// Bars is 1 to 64.
	Bars int `json:"bars"`
}

func (e SetBars) apply(d *Document, _ Env) ([]string, error) {
	d.Groove.Bars = e.Bars
	if e.Bars < 1 || e.Bars > groove.MaxBars {
		return nil, fmt.Errorf("a groove has 1 to %d bars", groove.MaxBars)
	}
	for i := range d.Groove.Lanes {
		end := d.Groove.LaneTicks(i)
		remove(&d.Groove.Lanes[i], func(h groove.Hit) bool { return h.Tick >= end })
	}
	return nil, nil
}

func (e SetBars) name(before, _ *Document) string {
	return fmt.Sprintf("Length %d → %s", before.Groove.Bars, count(e.Bars, "bar"))
}

// SetGrid changes the steps on which hits are written.
type SetGrid struct {
	// Grid is steps per quarter note: 1, 2, 3, 4, 6, 8 or 12.
	Grid int `json:"grid"`
}

func (e SetGrid) apply(d *Document, _ Env) ([]string, error) {
	d.Groove.Grid = e.Grid
	return nil, nil
}

func (e SetGrid) name(_, _ *Document) string { return fmt.Sprintf("Grid of %d steps a beat", e.Grid) }

// Clear takes away all hits, of one voice or of all.
type Clear struct {
	// Voice is whose hits go; empty for all.
	Voice string `json:"voice,omitempty"`
}

func (e Clear) apply(d *Document, _ Env) ([]string, error) {
	for i := range d.Groove.Lanes {
		if l := &d.Groove.Lanes[i]; e.Voice == "" || l.Voice == e.Voice {
			l.Hits = []groove.Hit{}
		}
	}
	return nil, nil
}

func (e Clear) name(before, _ *Document) string {
	if e.Voice == "" {
		return "All hits cleared"
	}
	return before.nameOf(e.Voice) + ": all hits removed"
}

// SetPair chooses the note value whose pairs swing.
type SetPair struct {
	// Pair is 8 for eighths or 16 for sixteenths.
	Pair int `json:"pair"`
}

func (e SetPair) apply(d *Document, _ Env) ([]string, error) {
	d.Groove.Feel.Pair = e.Pair
	return nil, nil
}

func (e SetPair) name(_, _ *Document) string {
	if e.Pair == 8 {
		return "Feel: eighths swing"
	}
	return "Feel: sixteenths swing"
}

// SetScatterKind chooses how the scatter of neighbouring hits hangs together.
type SetScatterKind struct {
	Kind groove.ScatterKind `json:"kind"`
}

func (e SetScatterKind) apply(d *Document, _ Env) ([]string, error) {
	d.Groove.Feel.ScatterKind = e.Kind
	return nil, nil
}

func (e SetScatterKind) name(_, _ *Document) string {
	return "Feel: " + map[groove.ScatterKind]string{groove.White: "independent", groove.Pink: "linked"}[e.Kind] + " scatter"
}

// SetSeed takes another draw of what is random.
type SetSeed struct {
	// Seed names the draw; equal seeds give equal scatter.
	Seed int64 `json:"seed"`
}

func (e SetSeed) apply(d *Document, _ Env) ([]string, error) {
	d.Groove.Seed = e.Seed
	return nil, nil
}

func (e SetSeed) name(_, _ *Document) string { return "Feel: another take" }

// Straighten takes the whole feel away.
type Straighten struct{}

func (e Straighten) apply(d *Document, _ Env) ([]string, error) {
	d.Groove.Feel = groove.Straight()
	return nil, nil
}

func (e Straighten) name(_, _ *Document) string { return "Feel: straight" }

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// nameOf is the name of a voice, or its id where it is gone.
func (d *Document) nameOf(voice string) string {
	if v := d.Kit.Voice(voice); v != nil {
		return v.Name
	}
	return voice
}
