package service

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/rebuild"
)

// RebuildAsk asks for a project to be made of a reference.
type RebuildAsk struct {
	// Reference is its id; empty is the active one.
	Reference string `json:"reference"`
	// Sounds is fits, samples, both, or kept: the sounds that are there, brought nearer.
	Sounds rebuild.Sounds `json:"sounds"`
	// Kit is one that ships, whose sounds are used where Sounds is kept; empty is the
	// project's own.
	Kit string `json:"kit"`
	// Tries is how many recipes are tried for each drum; 0 is the usual number.
	Tries int `json:"tries"`
	Seed  int `json:"seed"`
}

// Rebuilt is how far a rebuild has come.
type Rebuilt struct {
	// Project is the one that is made; New is true where it was made for this.
	Project string          `json:"project"`
	New     bool            `json:"new"`
	Done    float64         `json:"done"`
	Stages  []rebuild.Stage `json:"stages"`
	// Changes are how many of the history were made.
	Changes int `json:"changes"`
	// Inside and Reported are rows of the comparison at the end; nil before.
	Inside     *int `json:"inside"`
	Measurable *int `json:"measurable"`
	Stopped    bool `json:"stopped"`
}

// Rebuild makes a project of a reference in the background: the project itself where it is
// still empty, else a new one, which is named after it. Each stage is a change of the history
// that is heard at once. Stopped, what is made stays.
func (s *Service) Rebuild(id string, ask RebuildAsk) (jobs.Job, error) {
	st, err := s.Open(id)
	if err != nil {
		return jobs.Job{}, err
	}
	if ask.Reference == "" {
		ask.Reference = st.Document.Active
	}
	ref := st.Document.Reference(ask.Reference)
	switch {
	case ref == nil:
		return jobs.Job{}, &Refusal{Code: "no_reference", Message: "There is nothing to rebuild yet. Bring a reference first."}
	case ask.Sounds != rebuild.Fits && ask.Sounds != rebuild.Samples && ask.Sounds != rebuild.Both && ask.Sounds != rebuild.Kept:
		return jobs.Job{}, &Refusal{Code: "invalid", Message: "Drums are rebuilt as fits, samples, both, or kept."}
	case ask.Tries < 0 || ask.Tries > MostEvaluations:
		return jobs.Job{}, &Refusal{Code: "invalid", Message: fmt.Sprintf("A fit tries at most %d recipes.", MostEvaluations)}
	}
	if ref.Kind != "audio" {
		ask.Sounds = rebuild.Kept // it has no sound to be made of
	}
	kit, err := kitNamed(ask.Kit)
	if err != nil {
		return jobs.Job{}, err
	}
	made := &Rebuilt{Project: id, Stages: []rebuild.Stage{}}
	if !empty(&st.Document) {
		if made.Project, err = s.beside(st, ref); err != nil {
			return jobs.Job{}, err
		}
		made.New = true
	}
	ready := make(chan string, 1)
	job := s.Jobs.Start(jobs.Spec{Title: "Rebuilding " + ref.Name, Kind: jobs.Rebuild, Project: made.Project}, func(ctx context.Context, w *jobs.Watch) (string, error) {
		return made.Project, s.rebuild(ctx, <-ready, *ref, ask, kit, *made, w)
	})
	s.rebuilt.put(job.ID, made)
	ready <- job.ID
	return job, nil
}

// Rebuilt is how far a rebuild has come.
func (s *Service) Rebuilt(job string) (*Rebuilt, error) {
	if r := s.rebuilt.get(job); r != nil {
		return r, nil
	}
	return nil, store.ErrNotFound
}

func kitNamed(id string) (*preset.Kit, error) {
	if id == "" {
		return nil, nil
	}
	for _, k := range preset.Kits() {
		if k.ID == id {
			return &k, nil
		}
	}
	return nil, &Refusal{Code: "invalid", Message: "This kit is not one that ships. Choose another one."}
}

// empty is whether nothing was made in a project yet: no hits, and the kit it began with.
func empty(d *project.Document) bool {
	for i := range d.Groove.Lanes {
		if len(d.Groove.Lanes[i].Hits) > 0 {
			return false
		}
	}
	kit, err := json.Marshal(d.Kit)
	fresh, also := json.Marshal(project.New(d.Name).Kit)
	return err == nil && also == nil && bytes.Equal(kit, fresh) && len(d.Variations) == 1 && len(d.Mix.Buses) == 0
}

// beside makes a new project with the same reference, and its id.
func (s *Service) beside(st *State, ref *project.Reference) (string, error) {
	name := cut(st.Document.Name, 100) + ", rebuilt"
	d := project.New(name)
	if ref.Kind == "profile" { // it has no pattern: the project's own plays with its feel
		d = new(st.Document)
		d.Name = name
	}
	if ref.Kind == "midi" { // its sounds are those of the project
		d.Kit = st.Document.Kit
		d.Mix = st.Document.Mix
		d.Groove.Lanes = nil
		for _, v := range d.Kit.Voices {
			d.Groove.EnsureLane(v.ID)
		}
	}
	d.References, d.Active = []project.Reference{*ref}, ref.ID
	made, err := s.Create(d)
	if err != nil {
		return "", err
	}
	return made.ID, nil
}

// rebuild does the work of a rebuild.
func (s *Service) rebuild(ctx context.Context, job string, ref project.Reference, ask RebuildAsk, kit *preset.Kit, made Rebuilt, w *jobs.Watch) error {
	show := func() { s.rebuilt.put(job, new(made)) }
	put := func(edits project.Edits) (*project.Document, error) {
		for range 20 { // others may edit in between
			st, err := s.Open(made.Project)
			if err != nil {
				return nil, err
			}
			next, err := s.Edit(made.Project, st.Version, edits, "")
			if errors.Is(err, store.ErrConflict) {
				continue
			}
			if err != nil {
				return nil, err
			}
			made.Changes++
			show()
			return &next.Document, nil
		}
		return nil, store.ErrConflict
	}
	w.Report("taking the drums out", 0.02)
	st, err := s.Open(made.Project)
	if err != nil {
		return err
	}
	d := &st.Document
	if d.Active != ref.ID {
		if d, err = put(project.Edits{project.ActivateReference{Reference: ref.ID}}); err != nil {
			return errors.New(Sentence(err))
		}
	}
	if kit != nil {
		if d, err = put(project.Edits{project.SetKit{Voices: kit.Voices, Title: kit.Name}}); err != nil {
			return errors.New(Sentence(err))
		}
	}
	a, err := s.against(ctx, &ref)
	if err != nil {
		return errors.New(Sentence(err))
	}
	h := &rebuild.Host{
		Put: put, Env: env{s}, GivesWay: s.Hub.Playing,
		Keep:    func(b *audio.Buffer) (string, func(), error) { return s.keepSound(b) },
		Samples: s.samples,
		Show: func(stages []rebuild.Stage, done float64) {
			made.Stages, made.Done = stages, done
			for i := range stages {
				if stages[i].State == rebuild.Running {
					w.Report(stages[i].Title, done)
				}
			}
			show()
		},
	}
	got, err := rebuild.Rebuild(ctx, d, a, rebuild.Options{Sounds: ask.Sounds, Evaluations: ask.Tries, Seed: uint64(ask.Seed)}, h)
	if err != nil {
		if made.New && made.Changes == 0 { // nothing was made of it
			err = errors.Join(err, s.Store.Delete(made.Project))
		}
		return errors.New(Sentence(err))
	}
	made.Stages, made.Stopped, made.Done = got.Stages, got.Stopped, 1
	if c := got.Comparison; c != nil {
		made.Measurable, made.Inside = new(c.Measurable), new(c.Measurable-c.Outside)
	}
	show()
	return ctx.Err()
}

// Origins says of each voice of a project what is still the active reference's.
func (s *Service) Origins(ctx context.Context, id string) ([]rebuild.Origins, error) {
	f, err := s.facing(ctx, id)
	if err != nil {
		return nil, err
	}
	return rebuild.OriginsOf(&f.st.Document, f.against, f.compare()), nil
}
