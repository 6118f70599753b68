package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"reflect"
	"strconv"
	"strings"
	"time"

	"github.com/coder/websocket"
	"github.com/gin-gonic/gin"

	"jubrak/app/live"
	"jubrak/app/service"
	"jubrak/app/store"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

const maxBody = 4 << 20

// patience is how long a sender may send nothing before what it sends is given up.
const patience = 30 * time.Second

// awaited reads a request as long as something of it comes: a sender that stalls is not
// waited for.
func awaited(c *gin.Context, r io.ReadCloser) io.ReadCloser {
	return &patient{r, http.NewResponseController(c.Writer)}
}

type patient struct {
	io.ReadCloser
	conn *http.ResponseController
}

func (p *patient) Read(b []byte) (int, error) {
	_ = p.conn.SetReadDeadline(time.Now().Add(patience)) // a test's recorder has none
	n, err := p.ReadCloser.Read(b)
	if err != nil {
		_ = p.conn.SetReadDeadline(time.Time{})
	}
	return n, err
}

// body decodes a JSON request; ok is false when it has been refused: for a field that is
// not known, and for a base that is missing where the request is made from a version.
func body[T any](c *gin.Context) (v T, ok bool) {
	data, err := io.ReadAll(awaited(c, http.MaxBytesReader(c.Writer, c.Request.Body, maxBody)))
	var unknown *project.UnknownEdit
	if err == nil {
		d := json.NewDecoder(bytes.NewReader(data))
		d.DisallowUnknownFields()
		err = d.Decode(&v)
	}
	if errors.As(err, &unknown) {
		refuse(c, http.StatusUnprocessableEntity, "edit_refused", service.Sentence(err))
		return v, false
	} else if err != nil {
		why := "The request is not the JSON that was expected."
		if field, ok := strings.CutPrefix(err.Error(), "json: unknown field "); ok {
			why = fmt.Sprintf("The request has no field %s.", field)
		}
		refuse(c, http.StatusBadRequest, "bad_request", why)
		return v, false
	}
	if f, ok := reflect.TypeFor[T]().FieldByName("Base"); ok && f.Tag.Get("json") == "base" {
		var there struct {
			Base *int `json:"base"`
		}
		if json.Unmarshal(data, &there) == nil && there.Base == nil {
			refuse(c, http.StatusBadRequest, "bad_request", "The request does not say which version it was made from: base is missing.")
			return v, false
		}
	}
	return v, true
}

// answer sends a reply or the error in its place.
func (s *server) answer(c *gin.Context, v any, err error) {
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, v)
}

func (s *server) info(c *gin.Context) {
	c.JSON(http.StatusOK, infoNow())
}

func infoNow() Info {
	info := Info{Version: Version, Tables: project.AllTables(), Families: sound.Families, Rumble: sound.Rumbling("", "Rumble"), Limits: Limits{
		Bars: groove.MaxBars, Voices: sound.MaxVoices, Layers: sound.MaxLayers, Grids: groove.Grids,
		Meters: transcribe.Meters, HeardBPM: [2]float64{transcribe.MinBPM, transcribe.MaxBPM}, Silent: sound.Silent,
	}}
	for _, f := range sound.Families {
		info.Recipes = append(info.Recipes, sound.DefaultRecipe(f))
		info.Relations = append(info.Relations, append([]sound.Family{}, sound.Relations(f)...))
	}
	for _, k := range effect.Kinds() {
		info.Effects = append(info.Effects, *k)
	}
	for _, e := range engine.Systems {
		info.Systems = append(info.Systems, SystemInfo{e.ID, e.Label, e.Says})
	}
	for _, k := range project.Kinds() {
		info.Ops = append(info.Ops, k.Op)
	}
	return info
}

func (s *server) listProjects(c *gin.Context) {
	list, err := s.service.Projects()
	var size int64
	if err == nil {
		size, err = s.service.Store.Size()
	}
	s.answer(c, ProjectList{Projects: list, Size: size}, err)
}

func (s *server) createProject(c *gin.Context) {
	if req, ok := body[NewProject](c); ok {
		st, err := s.service.Create(project.New(req.Name))
		s.answer(c, st, err)
	}
}

func (s *server) openProject(c *gin.Context) {
	st, err := s.service.Open(c.Param("id"))
	s.answer(c, st, err)
}

func (s *server) deleteProject(c *gin.Context) {
	s.answer(c, gin.H{}, s.service.Delete(c.Param("id")))
}

func (s *server) edit(c *gin.Context) {
	if req, ok := body[EditRequest](c); ok {
		if len(req.Edits) == 0 {
			refuse(c, http.StatusBadRequest, "bad_request", "edits must be a list of at least one edit.")
			return
		}
		changed, err := s.service.Change(c.Param("id"), req.Base, req.Edits, req.Coalesce)
		s.answer(c, changed, err)
	}
}

func (s *server) history(c *gin.Context) {
	h, err := s.service.History(c.Param("id"))
	s.answer(c, h, err)
}

func (s *server) goTo(c *gin.Context) {
	if req, ok := body[PlaceRequest](c); ok {
		changed, err := s.service.Go(c.Param("id"), req.Base, req.Position)
		s.answer(c, changed, err)
	}
}

func (s *server) undo(c *gin.Context) { s.undoRedo(c, -1) }

func (s *server) redo(c *gin.Context) { s.undoRedo(c, 1) }

func (s *server) undoRedo(c *gin.Context, by int) {
	if req, ok := body[HistoryRequest](c); ok {
		st, err := s.service.UndoRedo(c.Param("id"), req.Base, by)
		s.answer(c, st, err)
	}
}

func (s *server) importReference(c *gin.Context) {
	if name, file, ok := s.uploaded(c, MaxUpload); ok {
		job, err := s.service.Import(c.Param("id"), name, file)
		s.answer(c, job, err)
	}
}

func (s *server) importArchive(c *gin.Context) {
	if name, file, ok := s.uploaded(c, MaxArchive); ok {
		job, err := s.service.ImportArchive(name, file)
		s.answer(c, job, err)
	}
}

func (s *server) duplicateProject(c *gin.Context) {
	st, err := s.service.Duplicate(c.Param("id"))
	s.answer(c, st, err)
}

// uploaded finds the file of a multipart request of at most so many bytes; ok
// is false when the request has been refused.
func (s *server) uploaded(c *gin.Context, most int64) (name string, file io.Reader, ok bool) {
	c.Request.Body = awaited(c, http.MaxBytesReader(c.Writer, c.Request.Body, most))
	reader, err := c.Request.MultipartReader()
	if err != nil {
		refuse(c, http.StatusBadRequest, "bad_request", "The request holds no file.")
		return "", nil, false
	}
	for {
		part, err := reader.NextPart()
		if errors.Is(err, io.EOF) {
			refuse(c, http.StatusBadRequest, "bad_request", "The request holds no file.")
			return "", nil, false
		}
		if err != nil {
			s.fail(c, &store.BrokenOff{Err: err})
			return "", nil, false
		}
		if part.FormName() == "file" {
			return part.FileName(), part, true
		}
	}
}

func (s *server) layerFromSlice(c *gin.Context) {
	if req, ok := body[service.NewLayer](c); ok {
		st, err := s.service.LayerFromSlice(c.Request.Context(), c.Param("id"), c.Param("ref"), req)
		s.answer(c, st, err)
	}
}

func (s *server) borrowAttack(c *gin.Context) {
	if req, ok := body[service.Borrowed](c); ok {
		st, err := s.service.BorrowAttack(c.Param("id"), c.Param("voice"), req)
		s.answer(c, st, err)
	}
}

func (s *server) tidyLayer(c *gin.Context) {
	if req, ok := body[service.Tidy](c); ok {
		st, err := s.service.TidyLayer(c.Param("id"), c.Param("voice"), req)
		s.answer(c, st, err)
	}
}

func (s *server) sliceLayer(c *gin.Context) {
	if req, ok := body[service.SliceLayer](c); ok {
		st, err := s.service.SliceLayer(c.Request.Context(), c.Param("id"), c.Param("voice"), req)
		s.answer(c, st, err)
	}
}

func (s *server) layerFromFile(c *gin.Context) {
	base, err := strconv.Atoi(c.Query("base"))
	if err != nil {
		refuse(c, http.StatusBadRequest, "bad_request", "base must be the version that the layer is added to.")
		return
	}
	if name, data, ok := s.received(c); ok {
		st, err := s.service.LayerFromFile(c.Param("id"), base, c.Param("voice"), name, data)
		s.answer(c, st, err)
	}
}

// received is an uploaded one-shot; it answers where there is none.
func (s *server) received(c *gin.Context) (name string, data []byte, ok bool) {
	name, file, ok := s.uploaded(c, MaxLayer)
	if !ok {
		return "", nil, false
	}
	data, err := io.ReadAll(file)
	if err == nil && len(data) == 0 {
		err = &format.Error{Code: format.CodeEmpty, Message: "The file is empty."}
	} else if err != nil {
		err = &store.BrokenOff{Err: err}
	}
	if err != nil {
		s.fail(c, err)
		return "", nil, false
	}
	return name, data, true
}

func (s *server) analysis(c *gin.Context) {
	a, err := s.service.Analysis(c.Request.Context(), c.Param("id"), c.Param("ref"))
	s.answer(c, a, err)
}

// stretch reads from, to and points; ok is false when it has been refused.
func stretch(c *gin.Context) (from, to float64, n int, ok bool) {
	from, err1 := strconv.ParseFloat(c.Query("from"), 64)
	to, err2 := strconv.ParseFloat(c.Query("to"), 64)
	n, err3 := strconv.Atoi(c.Query("points"))
	if err := errors.Join(err1, err2, err3); err != nil || !(from >= 0 && to > from && to < 1e5) || n < 1 || n > 4000 {
		refuse(c, http.StatusBadRequest, "bad_request", "A picture needs from and to in seconds and 1 to 4000 points.")
		return 0, 0, 0, false
	}
	return from, to, n, true
}

func (s *server) wave(c *gin.Context) {
	if from, to, n, ok := stretch(c); ok {
		p, err := s.service.Wave(c.Param("id"), c.Param("ref"), from, to, n)
		s.answer(c, p, err)
	}
}

func (s *server) spectrogram(c *gin.Context) {
	if from, to, n, ok := stretch(c); ok {
		p, err := s.service.Spectrogram(c.Param("id"), c.Param("ref"), from, to, n)
		s.answer(c, p, err)
	}
}

func (s *server) voiceSound(c *gin.Context) {
	zoom := 1
	if q := c.Query("zoom"); q != "" {
		var err error
		if zoom, err = strconv.Atoi(q); err != nil || zoom < 1 || zoom > 16 {
			refuse(c, http.StatusBadRequest, "bad_request", "zoom is 1 to 16.")
			return
		}
	}
	v, err := s.service.VoiceSound(c.Param("id"), c.Param("voice"), zoom)
	s.answer(c, v, err)
}

// bars reads a number of bars, 0 for one cycle; ok is false when it has been
// refused.
func bars(c *gin.Context) (n int, ok bool) {
	n, err := strconv.Atoi(c.DefaultQuery("bars", "0"))
	if err != nil || n < 0 || n > groove.MaxBars {
		refuse(c, http.StatusBadRequest, "bad_request", "bars is a number from 1 to 64, or 0 for one cycle.")
		return 0, false
	}
	return n, true
}

func (s *server) export(c *gin.Context) {
	st, err := s.service.Open(c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	n, ok := bars(c)
	if !ok {
		return
	}
	o := export.Options{Bars: n, Format: format.SampleFormat(c.DefaultQuery("format", string(format.WAV24))), Pickup: c.Query("pickup") == "1", Tracks: c.Query("tracks") == "1", Notes: c.Query("notes") == "1", Backings: c.Query("backings") == "1"}
	if !shots(c, &o) {
		return
	}
	o.Gain, err = strconv.ParseFloat(c.DefaultQuery("gain_db", "0"), 64)
	if err != nil || !(o.Gain >= -60 && o.Gain <= 12) || !o.Format.Known() {
		refuse(c, http.StatusBadRequest, "bad_request", "Choose wav16, wav24 or wav32f, and gain_db from -60 to 12.")
		return
	}
	file, err := s.service.Export(c.Request.Context(), st.ID, &st.Document, c.Param("what"), o)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.send(c, file)
}

func (s *server) levels(c *gin.Context) {
	st, err := s.service.Open(c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	if n, ok := bars(c); ok {
		o := export.Options{Bars: n}
		if shots(c, &o) {
			l, err := s.service.Levels(c.Request.Context(), &st.Document, o)
			s.answer(c, l, err)
		}
	}
}

// shots reads what is asked of one-shots.
func shots(c *gin.Context, o *export.Options) bool {
	o.Chain = c.Query("chain") == "1"
	v, err := strconv.Atoi(c.DefaultQuery("velocity", "110"))
	if o.Velocity = v; err != nil || v < 1 || v > 127 {
		refuse(c, http.StatusBadRequest, "bad_request", "A velocity is a whole number from 1 to 127.")
		return false
	}
	return true
}

// send answers with a file to take away.
func (s *server) send(c *gin.Context, file export.File) {
	c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": file.Name}))
	c.Header("Content-Type", "application/octet-stream")
	if err := file.Write(c.Writer); err != nil {
		s.log.Warn("an export was not taken to its end", "error", err)
	}
}

func (s *server) slices(c *gin.Context) {
	list, err := s.service.Slices(c.Request.Context(), c.Param("id"), c.Param("ref"))
	s.answer(c, SliceList{Slices: list}, err)
}

func (s *server) sliceFiles(c *gin.Context) {
	f := format.SampleFormat(c.DefaultQuery("format", string(format.WAV24)))
	if !f.Known() {
		refuse(c, http.StatusBadRequest, "bad_request", "Choose wav16, wav24 or wav32f.")
		return
	}
	file, err := s.service.SliceFiles(c.Request.Context(), c.Param("id"), c.Param("ref"), f)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.send(c, file)
}

func (s *server) drums(c *gin.Context) {
	set, err := s.service.Drums(c.Param("id"), c.Param("ref"))
	s.answer(c, set, err)
}

func (s *server) drumFile(c *gin.Context) {
	f := format.SampleFormat(c.DefaultQuery("format", string(format.WAV32F)))
	group, err := strconv.Atoi(c.Param("group"))
	if !f.Known() || err != nil {
		refuse(c, http.StatusBadRequest, "bad_request", "Choose wav16, wav24 or wav32f, and a drum by family and number.")
		return
	}
	of := project.DrumOf{Family: sound.Family(c.Param("family")), Group: group, Dry: c.Query("dry") == "1"}
	file, err := s.service.DrumFile(c.Request.Context(), c.Param("id"), c.Param("ref"), of, f)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.send(c, file)
}

func (s *server) takeDrum(c *gin.Context) {
	if req, ok := body[service.TakeDrum](c); ok {
		st, err := s.service.TakeDrum(c.Request.Context(), c.Param("id"), c.Param("ref"), req)
		s.answer(c, st, err)
	}
}

func (s *server) live(c *gin.Context) {
	session, leave, err := s.service.Monitor(c.Param("id"), c.Query("key"))
	if err != nil {
		s.fail(c, err)
		return
	}
	defer leave()
	conn, err := websocket.Accept(c.Writer, c.Request, nil)
	if err != nil {
		return // Accept has answered
	}
	defer func() { _ = conn.CloseNow() }()
	err = session.Serve(c.Request.Context(), conn)
	if status := websocket.CloseStatus(err); status == -1 && !errors.Is(err, context.Canceled) && !errors.Is(err, io.EOF) {
		s.log.Debug("a monitor closed", "error", err)
	}
}

// monitor is the open monitor that the path names, or nil, which is answered.
func (s *server) monitor(c *gin.Context) *live.Session {
	m := s.service.Hub.Find(c.Param("id"), c.Param("key"))
	if m == nil {
		refuse(c, http.StatusNotFound, "not_found", "This monitor has ended.")
	}
	return m
}

func (s *server) liveBlocks(c *gin.Context) {
	if m := s.monitor(c); m != nil {
		c.Header("Content-Type", "application/octet-stream")
		c.Header("Cache-Control", "no-store")
		if err := m.Stream(c.Request.Context(), c.Writer); err != nil {
			s.log.Debug("a stream closed", "error", err)
		}
	}
}

func (s *server) livePlayed(c *gin.Context) {
	m := s.monitor(c)
	if m == nil {
		return
	}
	if count, ok := body[live.Message](c); ok {
		count.Type = live.Played
		m.Count(&count)
		c.Status(http.StatusNoContent)
	}
}

func (s *server) job(c *gin.Context) {
	if j, ok := s.service.Jobs.Get(c.Param("id")); ok {
		c.JSON(http.StatusOK, j)
		return
	}
	refuse(c, http.StatusNotFound, "not_found", "This job is no longer known.")
}

func (s *server) listJobs(c *gin.Context) { c.JSON(http.StatusOK, JobList{s.service.Jobs.List()}) }

func (s *server) restartJob(c *gin.Context) {
	job, err := s.service.Restart(c.Param("id"))
	s.answer(c, job, err)
}

func (s *server) recordings(c *gin.Context) {
	list, err := s.service.Recordings(c.Query("except"))
	s.answer(c, RecordingList{list}, err)
}

func (s *server) useRecording(c *gin.Context) {
	if req, ok := body[UseRecording](c); ok {
		st, err := s.service.UseRecording(c.Param("id"), req.Base, req.Project, req.Reference)
		s.answer(c, st, err)
	}
}

func (s *server) longFile(c *gin.Context) {
	l, err := s.service.Long(c.Param("long"))
	s.answer(c, l, err)
}

func (s *server) dropLong(c *gin.Context) {
	s.answer(c, struct{}{}, s.service.DropLong(c.Param("long")))
}

func (s *server) importStretch(c *gin.Context) {
	if req, ok := body[service.Stretch](c); ok {
		job, err := s.service.ImportStretch(c.Param("id"), c.Param("long"), req)
		s.answer(c, job, err)
	}
}

func (s *server) soFar(c *gin.Context) {
	if found := s.service.Jobs.Shown(c.Param("id")); found != nil {
		c.JSON(http.StatusOK, found)
		return
	}
	refuse(c, http.StatusNotFound, "not_found", "This job shows nothing now.")
}

func (s *server) cancelJob(c *gin.Context) {
	if !s.service.Cancel(c.Param("id")) {
		refuse(c, http.StatusNotFound, "not_found", "This job is no longer known.")
		return
	}
	c.JSON(http.StatusOK, gin.H{})
}

func (s *server) openAPI(c *gin.Context) { c.Data(http.StatusOK, "application/json", s.doc) }

func (s *server) profiles(c *gin.Context) {
	list, err := s.service.Profiles()
	s.answer(c, ProfileList{Profiles: list}, err)
}

func (s *server) deleteProfile(c *gin.Context) {
	s.answer(c, gin.H{}, s.service.Store.DeleteProfile(c.Param("id")))
}

func (s *server) shrinkProfile(c *gin.Context) {
	if req, ok := body[service.ShrinkAsk](c); ok {
		p, err := s.service.Shrink(c.Param("id"), req)
		s.answer(c, p, err)
	}
}

func (s *server) saveProfile(c *gin.Context) {
	if req, ok := body[NewProfile](c); ok {
		p, err := s.service.SaveProfile(c.Request.Context(), c.Param("id"), c.Param("ref"), req.Name, req.Notes, req.Tags)
		s.answer(c, p, err)
	}
}

func (s *server) useProfile(c *gin.Context) {
	if req, ok := body[UseProfile](c); ok {
		st, err := s.service.UseProfile(c.Param("id"), req.Profile, req.Base)
		s.answer(c, st, err)
	}
}

func (s *server) addTake(c *gin.Context) {
	if req, ok := body[service.Take](c); ok {
		st, err := s.service.AddTake(c.Request.Context(), c.Param("id"), &req)
		s.answer(c, st, err)
	}
}

func (s *server) mapping(c *gin.Context) {
	m, err := s.service.Mapping()
	s.answer(c, m, err)
}

func (s *server) saveMapping(c *gin.Context) {
	if m, ok := body[service.Mapping](c); ok {
		s.answer(c, gin.H{}, s.service.SaveMapping(&m))
	}
}

func (s *server) voices(c *gin.Context) {
	list, err := s.service.VoiceFacts(c.Param("id"))
	s.answer(c, list, err)
}
