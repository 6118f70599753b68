package api

import (
	"encoding/json"
	"reflect"
	"regexp"
	"strings"

	"github.com/gin-gonic/gin"

	"jubrak/app/jobs"
	"jubrak/app/live"
	"jubrak/app/service"
	"jubrak/core/audition"
	"jubrak/core/compare"
	"jubrak/core/effect"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/mixreport"
	"jubrak/core/pattern"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// route is one operation of the API. The same table registers the handlers
// and writes the OpenAPI document, so neither can lack what the other has.
type route struct {
	method, path string // path in Gin's form
	id, summary  string
	query        []query
	body         any    // zero value of the request, nil for none
	reply        any    // zero value of the reply, nil for none
	upload       bool   // multipart with one part, file
	media        string // of a reply that is not JSON
	handle       func(*server, *gin.Context)
}

// query is a parameter in the query of a path.
type query struct {
	name, about string
	required    bool
	of          any // zero value of its type
}

// Info is what the interface must know of the core to build itself.
type Info struct {
	Version string `json:"version"`
	// Tables are the numbers of a project, by what has them.
	Tables   project.Tables `json:"tables"`
	Families []sound.Family `json:"families"`
	// Relations are the families that stand in for each one where a kit lacks it, by
	// place in families.
	Relations [][]sound.Family `json:"relations"`
	// Recipes are where a drum of each family starts, in the order of families.
	Recipes []sound.Recipe `json:"recipes"`
	// Effects are the kinds of effect, with their numbers.
	Effects []effect.Kind `json:"effects"`
	// Systems are the speaker simulations.
	Systems []SystemInfo `json:"systems"`
	// Rumble is a layer of a rumble to be added.
	Rumble sound.Layer `json:"rumble"`
	// Ops are the kinds of edit.
	Ops    []string `json:"ops"`
	Limits Limits   `json:"limits"`
}

// Limits are the sizes that a project and a reference may have.
type Limits struct {
	Bars   int `json:"bars"`
	Voices int `json:"voices"`
	// Layers is the most of one voice.
	Layers int `json:"layers"`
	// Grids are the steps per quarter note on offer.
	Grids []int `json:"grids"`
	// Meters are those on offer for a reference.
	Meters []string `json:"meters"`
	// HeardBPM are the least and greatest tempo that a reference may have.
	HeardBPM [2]float64 `json:"heard_bpm"`
	// Silent is the level at which a part of a recipe is switched off, dB.
	Silent float64 `json:"silent_db"`
}

// ProjectList is the answer to listing projects.
type ProjectList struct {
	Projects []service.Summary `json:"projects"`
	// Size is what the whole data folder takes, bytes.
	Size int64 `json:"size_bytes"`
}

// JobList is the jobs that are remembered.
type JobList struct {
	Jobs []jobs.Job `json:"jobs"`
}

// NewProject asks for a project of a name.
type NewProject struct {
	Name string `json:"name"`
}

// EditRequest applies edits to version Base. Edits with the same Coalesce
// name in a row are one change to undo.
type EditRequest struct {
	Base     int           `json:"base"`
	Edits    project.Edits `json:"edits"`
	Coalesce string        `json:"coalesce"`
}

// UseRecording names a reference of another project.
type UseRecording struct {
	Base      int    `json:"base"`
	Project   string `json:"project"`
	Reference string `json:"reference"`
}

// RecordingList is the recordings of other projects.
type RecordingList struct {
	Recordings []service.Recording `json:"recordings"`
}

// SliceList is what can be cut out of a reference.
type SliceList struct {
	Slices []service.SliceSound `json:"slices"`
}

// ProfileList is the library.
type ProfileList struct {
	Profiles []profile.Profile `json:"profiles"`
}

// NewProfile names what is saved of a reference.
type NewProfile struct {
	Name  string   `json:"name"`
	Notes string   `json:"notes"`
	Tags  []string `json:"tags"`
}

// UseProfile takes a profile as reference from version Base.
type UseProfile struct {
	Profile string `json:"profile"`
	Base    int    `json:"base"`
}

// BackingList is how the backings of an arrangement are played.
type BackingList struct {
	Backings []service.BackingFacts `json:"backings"`
}

// DrawableList is the numbers that may be drawn over a section.
type DrawableList struct {
	Drawable []project.DrawableNumber `json:"drawable"`
}

// FillList is the fills that ship.
type FillList struct {
	Fills []pattern.Fill `json:"fills"`
}

// PatternList is the grooves that ship.
type PatternList struct {
	Patterns []pattern.Pattern `json:"patterns"`
}

// ProposedList is changes that may be taken or left.
type ProposedList struct {
	Proposed []project.Proposed `json:"proposed"`
}

// PairList is how voices lie against each other.
type PairList struct {
	Pairs []compare.Pair `json:"pairs"`
}

// TryList is the project's grooves in numbers.
type TryList struct {
	Tries []compare.Try `json:"tries"`
}

// NearestRecording is a recording of a habit, counted from 1; 0 is none.
type NearestRecording struct {
	Recording int `json:"recording"`
}

// HistoryRequest undoes or redoes from version Base.
type HistoryRequest struct {
	Base int `json:"base"`
}

// PlaceRequest goes to a change of the history from version Base.
type PlaceRequest struct {
	Base int `json:"base"`
	// Position is the change's; where there is none, nothing changes.
	Position int `json:"position"`
}

// Failure is every refusal: a code for programs, a sentence for people.
type Failure struct {
	Error FailureBody `json:"error"`
}

// Code names the reason of a refusal, for programs: bad_request, the request
// cannot be read; not_found, what it names is gone; version_conflict, the project
// has been changed since the base version; edit_refused and invalid, what was
// asked for cannot be; no_reference and no_sound, what it needs is missing;
// those that begin with file_ say what is wrong with a file; too_long, of what
// would be made; too_large and upload_broken, of an upload; disk_full; origin_refused and
// host_refused, the request does not come from this machine's page; internal, a
// fault of the program.
type Code string

// The codes.
const (
	BadRequest      Code = "bad_request"
	NotFound        Code = "not_found"
	VersionConflict Code = "version_conflict"
	EditRefused     Code = "edit_refused"
	Invalid         Code = "invalid"
	NoReference     Code = "no_reference"
	NoSound         Code = "no_sound"
	TooLarge        Code = "too_large"
	TooLong         Code = "too_long"
	UploadBroken    Code = "upload_broken"
	DiskFull        Code = "disk_full"
	FolderUnusable  Code = "folder_unusable"
	OriginRefused   Code = "origin_refused"
	HostRefused     Code = "host_refused"
	Internal        Code = "internal"
	FileEmpty       Code = "file_empty"
	FileUnknown     Code = "file_unknown"
	FileDamaged     Code = "file_damaged"
	FileTooLong     Code = "file_too_long"
	FileUnusable    Code = "file_unusable"
	FileTruncated   Code = "file_truncated"
)

// FailureBody is the inside of Failure.
type FailureBody struct {
	Code    Code   `json:"code"`
	Message string `json:"message"`
}

// routes is the table of the whole API.
func routes() []route {
	return []route{
		{method: "GET", path: "/api/info", id: "info", summary: "Parameters, families and edits that the core knows", reply: Info{}, handle: (*server).info},
		{method: "GET", path: "/api/projects", id: "listProjects", summary: "All projects, the latest changed first", reply: ProjectList{}, handle: (*server).listProjects},
		{method: "POST", path: "/api/projects", id: "createProject", summary: "A new, empty project", body: NewProject{}, reply: service.State{}, handle: (*server).createProject},
		{method: "GET", path: "/api/projects/:id", id: "openProject", summary: "A project as it is now", reply: service.State{}, handle: (*server).openProject},
		{method: "DELETE", path: "/api/projects/:id", id: "deleteProject", summary: "Delete a project and its history", handle: (*server).deleteProject},
		{method: "POST", path: "/api/projects/:id/edits", id: "editProject", summary: "Apply edits; the answer is what changed, as a JSON Patch (RFC 6902)", body: EditRequest{}, reply: service.Changed{}, handle: (*server).edit},
		{method: "POST", path: "/api/projects/:id/undo", id: "undo", summary: "Undo one change; the answer is what changed, as for edits", body: HistoryRequest{}, reply: service.Changed{}, handle: (*server).undo},
		{method: "POST", path: "/api/projects/:id/redo", id: "redo", summary: "Redo one change", body: HistoryRequest{}, reply: service.Changed{}, handle: (*server).redo},
		{method: "GET", path: "/api/projects/:id/history", id: "history", summary: "The changes that can be gone back to", reply: service.History{}, handle: (*server).history},
		{method: "POST", path: "/api/projects/:id/history", id: "goTo", summary: "Go to a change of the history", body: PlaceRequest{}, reply: service.Changed{}, handle: (*server).goTo},
		{method: "POST", path: "/api/archives", id: "importArchive", summary: "Open a project archive as a new project", upload: true, reply: jobs.Job{}, handle: (*server).importArchive},
		{method: "POST", path: "/api/projects/:id/duplicate", id: "duplicate", summary: "Make a new project of this one", reply: service.State{}, handle: (*server).duplicateProject},
		{method: "POST", path: "/api/projects/:id/references", id: "importReference", summary: "Listen to a file and add it as a reference", upload: true, reply: jobs.Job{}, handle: (*server).importReference},
		{method: "GET", path: "/api/projects/:id/references/:ref", id: "analysis", summary: "What was heard in a reference, corrected", reply: transcribe.Analysis{}, handle: (*server).analysis},
		{method: "GET", path: "/api/projects/:id/references/:ref/wave", id: "wave", summary: "A picture of the recording", query: part, reply: service.Peaks{}, handle: (*server).wave},
		{method: "GET", path: "/api/projects/:id/references/:ref/spectrogram", id: "spectrogram", summary: "Level by frequency and time", query: part, reply: audition.Spectrogram{}, handle: (*server).spectrogram},
		{method: "GET", path: "/api/projects/:id/references/:ref/slices", id: "slices", summary: "The cleanest hits of each family, measured", reply: SliceList{}, handle: (*server).slices},
		{method: "GET", path: "/api/projects/:id/references/:ref/drums", id: "drums", summary: "The drums of a reference by themselves, or how much of the work is done", reply: service.DrumSet{}, handle: (*server).drums},
		{method: "GET", path: "/api/projects/:id/references/:ref/drums/:family/:group", id: "drumFile", summary: "One of them as a WAV file", query: []query{formatQuery, {"dry", "1: without the room", false, 0}}, media: "application/octet-stream", handle: (*server).drumFile},
		{method: "POST", path: "/api/projects/:id/references/:ref/drums", id: "takeDrum", summary: "Make a drum of a reference the sound of a voice, as samples", body: service.TakeDrum{}, reply: service.State{}, handle: (*server).takeDrum},
		{method: "POST", path: "/api/projects/:id/references/:ref/layers", id: "layerFromSlice", summary: "Cut a slice and add it as a layer", body: service.NewLayer{}, reply: service.State{}, handle: (*server).layerFromSlice},
		{method: "POST", path: "/api/projects/:id/voices/:voice/tidy", id: "tidyLayer", summary: "Trim a recording's silence, bring it to a level, note its pitch", body: service.Tidy{}, reply: service.State{}, handle: (*server).tidyLayer},
		{method: "POST", path: "/api/projects/:id/voices/:voice/slice", id: "sliceLayer", summary: "Cut a recorded loop into hits, a new voice for each family", body: service.SliceLayer{}, reply: service.State{}, handle: (*server).sliceLayer},
		{method: "POST", path: "/api/projects/:id/voices/:voice/attack", id: "borrowAttack", summary: "Let a layer begin with the start of another voice's sound", body: service.Borrowed{}, reply: service.State{}, handle: (*server).borrowAttack},
		{method: "POST", path: "/api/projects/:id/voices/:voice/layers", id: "layerFromFile", summary: "Add a recorded one-shot as a layer", query: []query{{"base", "Version of the project that the change was made from", true, 0}}, upload: true, reply: service.State{}, handle: (*server).layerFromFile},
		{method: "GET", path: "/api/projects/:id/references/:ref/slices.zip", id: "sliceFiles", summary: "The same as WAV files", query: []query{formatQuery}, media: "application/octet-stream", handle: (*server).sliceFiles},
		{method: "GET", path: "/api/projects/:id/voices/:voice/sound", id: "voiceSound", summary: "A voice rendered, measured and drawn", query: []query{{"zoom", "How much longer than usual its start is drawn, 1 to 16", false, 0}}, reply: service.VoiceSound{}, handle: (*server).voiceSound},
		{method: "GET", path: "/api/projects/:id/compare", id: "compare", summary: "Mine, or another reference, against the active reference", query: []query{{"reference", "Id of the reference that stands in mine's place", false, ""}, {"project", "Id of another project, an attempt at the same, that stands in mine's place", false, ""}, {"beside", "Ids of references whose values are put beside, separated by commas", false, ""}}, reply: compare.Comparison{}, handle: (*server).compare},
		{method: "GET", path: "/api/projects/:id/distances", id: "distances", summary: "How far each version of a project lay from its active reference", reply: DistanceList{}, handle: (*server).distances},
		{method: "POST", path: "/api/projects/:id/apply", id: "applyRows", summary: "Close differences, one change of the history, and measure what came of it", body: service.ApplyAsk{}, reply: jobs.Job{}, handle: (*server).applyRows},
		{method: "GET", path: "/api/jobs/:id/applied", id: "applied", summary: "What closing differences has done", reply: compare.Applied{}, handle: (*server).applied},
		{method: "POST", path: "/api/projects/:id/rebuild", id: "rebuild", summary: "Make a project of a reference: this one where it is empty, else a new one", body: service.RebuildAsk{}, reply: jobs.Job{}, handle: (*server).rebuild},
		{method: "GET", path: "/api/jobs/:id/rebuilt", id: "rebuilt", summary: "How far a rebuild has come", reply: service.Rebuilt{}, handle: (*server).rebuilt},
		{method: "GET", path: "/api/projects/:id/origins", id: "origins", summary: "What of each voice is still the reference's", reply: OriginList{}, handle: (*server).origins},
		{method: "POST", path: "/api/projects/:id/blind", id: "blind", summary: "Begin a blind test of mine against the reference's drums or another groove", body: service.BlindAsk{}, reply: service.BlindGame{}, handle: (*server).blind},
		{method: "GET", path: "/api/projects/:id/blind", id: "blindResults", summary: "The blind tests that were made", reply: BlindResultList{}, handle: (*server).blindResults},
		{method: "POST", path: "/api/blind/:game", id: "answerBlind", summary: "Say which of both X is", body: service.BlindAnswer{}, reply: service.BlindGame{}, handle: (*server).answerBlind},
		{method: "GET", path: "/api/projects/:id/export/:what", id: "export", summary: "A file to take away: loop, stems, one-shots or midi of the groove, piece, sections, piece-stems or piece-midi of the arrangement, or project", query: []query{formatQuery, barsQuery, {"gain_db", "Change of level of sound files, -60 to 12 dB", false, 0.0}, {"pickup", "1: a MIDI file has a bar of its own for hits before the first downbeat", false, 0}, {"tracks", "1: a MIDI file has a track for each voice", false, 0}, {"notes", "1: voices with pitches are notes on channels of their own", false, 0}, velocityQuery, chainQuery, {"backings", "1: the whole piece with its backings", false, 0}}, media: "application/octet-stream", handle: (*server).export},
		{method: "GET", path: "/api/projects/:id/levels", id: "levels", summary: "How loud loop, stems and one-shots would come out", query: []query{barsQuery, velocityQuery, chainQuery}, reply: export.Levels{}, handle: (*server).levels},
		{method: "GET", path: "/api/projects/:id/live", id: "live", summary: "The streaming monitor (WebSocket; see docs/live.md)", query: []query{{"key", "A name for it, to open a stream of its blocks", false, ""}}, media: "application/octet-stream", handle: (*server).live},
		{method: "GET", path: "/api/projects/:id/live/:key", id: "liveBlocks", summary: "The blocks of an open monitor, in an answer that does not end", media: "application/octet-stream", handle: (*server).liveBlocks},
		{method: "POST", path: "/api/projects/:id/live/:key", id: "livePlayed", summary: "Say how much of an open monitor has been played", body: live.Message{}, handle: (*server).livePlayed},
		{method: "POST", path: "/api/projects/:id/takes", id: "addTake", summary: "Take what was tapped as reference", body: service.Take{}, reply: service.State{}, handle: (*server).addTake},
		{method: "GET", path: "/api/mapping", id: "mapping", summary: "How keys of MIDI files to come are filed, over General MIDI", reply: service.Mapping{}, handle: (*server).mapping},
		{method: "PUT", path: "/api/mapping", id: "saveMapping", summary: "Save that", body: service.Mapping{}, handle: (*server).saveMapping},
		{method: "GET", path: "/api/library", id: "library", summary: "The library of sounds, kits and curves: those saved, then those that ship", reply: service.Library{}, handle: (*server).library},
		{method: "DELETE", path: "/api/library/:item", id: "deleteItem", summary: "Take a saved sound, kit or curve out of the library", handle: (*server).deleteItem},
		{method: "POST", path: "/api/library/curves", id: "saveCurve", summary: "Save a curve in the library", body: sound.Curve{}, reply: service.LibraryCurve{}, handle: (*server).saveCurve},
		{method: "POST", path: "/api/projects/:id/library", id: "saveKit", summary: "Save the kit in the library", body: NewLibraryKit{}, reply: service.LibraryKit{}, handle: (*server).saveKit},
		{method: "POST", path: "/api/projects/:id/voices/:voice/library", id: "saveSound", summary: "Save a voice's sound in the library", body: NewLibrarySound{}, reply: service.LibrarySound{}, handle: (*server).saveSound},
		{method: "POST", path: "/api/projects/:id/voices/:voice/fit", id: "fit", summary: "Search a recipe for a voice that is as near as can be to a target", body: service.FitAsk{}, reply: jobs.Job{}, handle: (*server).fit},
		{method: "POST", path: "/api/projects/:id/voices/:voice/fitted", id: "takeFit", summary: "Make what a fit has found the sound of its voice, and keep it as an attempt", body: service.TakeFit{}, reply: service.State{}, handle: (*server).takeFit},
		{method: "POST", path: "/api/projects/:id/voices/:voice/into", id: "intoTones", summary: "Bring a voice's recipe into the tones of a profile by few changes", body: service.IntoAsk{}, reply: service.IntoTones{}, handle: (*server).intoTones},
		{method: "POST", path: "/api/projects/:id/chain-fit", id: "fitChain", summary: "Find effects that bring a row to the reference", body: service.ChainAsk{}, reply: service.RowFit{}, handle: (*server).fitChain},
		{method: "POST", path: "/api/fit-files", id: "fitTo", summary: "Bring a file to fit sounds to", upload: true, reply: service.FitFile{}, handle: (*server).fitTo},
		{method: "GET", path: "/api/projects/:id/voices/:voice/attempts", id: "attempts", summary: "The kept attempts at a voice's sound", reply: service.Attempts{}, handle: (*server).attempts},
		{method: "POST", path: "/api/projects/:id/voices/:voice/attempts", id: "keepAttempt", summary: "Keep a voice's sound as it is now, to be heard against others", body: NewLibraryKit{}, reply: service.Attempts{}, handle: (*server).keepAttempt},
		{method: "POST", path: "/api/projects/:id/voices/:voice/loudness", id: "loudnessWith", summary: "How loud a voice strikes, and how loud it would with other layers", body: OtherLayers{}, reply: service.Loudness{}, handle: (*server).loudnessWith},
		{method: "GET", path: "/api/projects/:id/voices/:voice/near", id: "near", summary: "How unlike the sounds of the library are to a voice's: all of them, or those that are darker, shorter and so on", query: []query{{"than", "darker, brighter, shorter, longer, lower, higher, separated by commas", false, ""}, {"to", "target: how unlike to what the voice is built towards", false, ""}}, reply: Distances{}, handle: (*server).near},
		{method: "POST", path: "/api/projects/:id/voices/:voice/variants", id: "vary", summary: "Make variants of a layer's recipe", body: service.VaryAsk{}, reply: VariantList{}, handle: (*server).vary},
		{method: "POST", path: "/api/projects/:id/voices/:voice/numbered.zip", id: "numbered", summary: "Variants as WAV files whose numbers go on from the last of their set", body: service.Numbered{}, media: "application/octet-stream", handle: (*server).numbered},
		{method: "GET", path: "/api/fills", id: "fills", summary: "The fills that ship", reply: FillList{}, handle: (*server).fills},
		{method: "GET", path: "/api/projects/:id/piece", id: "piece", summary: "What the arrangement comes to in time, and what is drawn over it", reply: service.PieceFacts{}, handle: (*server).piece},
		{method: "POST", path: "/api/projects/:id/backings", id: "addBacking", summary: "Bring a recording behind the drums of the arrangement", query: []query{{"at", "tick at which it begins", false, 0}}, upload: true, reply: jobs.Job{}, handle: (*server).addBacking},
		{method: "GET", path: "/api/projects/:id/backings", id: "backings", summary: "How the backings are played", reply: BackingList{}, handle: (*server).backings},
		{method: "GET", path: "/api/projects/:id/backings/:backing/wave", id: "backingWave", summary: "A picture of a backing as it is played", query: []query{{"points", "how many", true, 0}}, reply: service.Peaks{}, handle: (*server).backingWave},
		{method: "GET", path: "/api/projects/:id/piece/room", id: "pieceRoom", summary: "The room that the arrangement leaves for a voice, bar by bar", reply: service.Space{}, handle: (*server).pieceRoom},
		{method: "POST", path: "/api/projects/:id/piece/bounce", id: "bouncePiece", summary: "Bring a stretch of the arrangement back as a sample, slices or a backing", body: service.PieceBounce{}, reply: service.State{}, handle: (*server).bouncePiece},
		{method: "GET", path: "/api/projects/:id/references/:ref/outline", id: "outline", summary: "The shape of a recording: drums by bar, changes, sections", reply: service.ShapeOf{}, handle: (*server).outline},
		{method: "GET", path: "/api/projects/:id/piece/drawable", id: "drawable", summary: "The numbers that may be drawn over a section", reply: DrawableList{}, handle: (*server).drawable},
		{method: "GET", path: "/api/projects/:id/piece/hits", id: "pieceHits", summary: "What is struck in a stretch of the arrangement", query: []query{{"from", "tick", true, 0}, {"to", "tick behind the last", true, 0}}, reply: service.PieceHits{}, handle: (*server).pieceHits},
		{method: "GET", path: "/api/patterns", id: "patterns", summary: "The grooves that ship", reply: PatternList{}, handle: (*server).patterns},
		{method: "POST", path: "/api/projects/:id/suggest", id: "suggest", summary: "Changes of the groove drawn by a seed", body: project.Ask{}, reply: ProposedList{}, handle: (*server).propose},
		{method: "GET", path: "/api/projects/:id/between", id: "between", summary: "How voices lie against each other, mine and the reference's", reply: PairList{}, handle: (*server).between},
		{method: "GET", path: "/api/projects/:id/voices", id: "voices", summary: "The pitch and the MIDI key of each voice", reply: service.VoiceFactList{}, handle: (*server).voices},
		{method: "GET", path: "/api/projects/:id/mix", id: "mix", summary: "What the mix does: levels, what effects do, who covers whom, what systems leave", reply: mixreport.Look{}, handle: (*server).mix},
		{method: "POST", path: "/api/projects/:id/effects/:effect/recording", id: "effectRecording", summary: "Give an effect of a row a recording, such as an impulse response", query: []query{{"base", "Version of the project that the change was made from", true, 0}, {"row", "A voice, \"bus:\" with a bus, or \"out\"", true, ""}}, upload: true, reply: service.State{}, handle: (*server).effectRecording},
		{method: "POST", path: "/api/projects/:id/bypass-gain", id: "bypassGain", summary: "By how much an effect, a chain or all chains make their row louder", body: BypassRequest{}, reply: BypassGain{}, handle: (*server).bypassGain},
		{method: "POST", path: "/api/projects/:id/bounce", id: "bounceRow", summary: "Bounce a row to a voice", body: service.BounceRow{}, reply: service.State{}, handle: (*server).bounceRow},
		{method: "POST", path: "/api/projects/:id/mix", id: "takeMix", summary: "Take a mix, a bus or a row from another project", body: service.MixAsk{}, reply: service.TakenMix{}, handle: (*server).takeMix},
		{method: "GET", path: "/api/odds", id: "odds", summary: "How likely a guess is right so often", query: []query{{"right", "How many were right", true, ""}, {"of", "Of how many", true, ""}}, reply: Odds{}, handle: (*server).odds},
		{method: "GET", path: "/api/chains", id: "chains", summary: "The library of chains: those saved, then those that ship", reply: ChainList{}, handle: (*server).chains},
		{method: "POST", path: "/api/projects/:id/chains", id: "saveChain", summary: "Save the chain of a row in the library", body: NewLibraryChain{}, reply: service.LibraryChain{}, handle: (*server).saveChain},
		{method: "GET", path: "/api/projects/:id/tries", id: "tries", summary: "The project's grooves in numbers beside the reference", reply: TryList{}, handle: (*server).tries},
		{method: "GET", path: "/api/projects/:id/references/:ref/roots", id: "roots", summary: "The bass notes that stand in a reference, beat by beat", reply: service.Roots{}, handle: (*server).roots},
		{method: "GET", path: "/api/projects/:id/nearest", id: "nearest", summary: "The recording of the active habit that the groove is nearest to", reply: NearestRecording{}, handle: (*server).nearestRecording},
		{method: "POST", path: "/api/projects/:id/feel", id: "saveFeel", summary: "Save the groove's own feel", body: NewProfile{}, reply: profile.Profile{}, handle: (*server).saveFeel},
		{method: "POST", path: "/api/projects/:id/habit", id: "saveHabit", summary: "Make one profile of several references and profiles", body: service.HabitAsk{}, reply: profile.Profile{}, handle: (*server).saveHabit},
		{method: "GET", path: "/api/profiles", id: "profiles", summary: "The library: saved profiles, then genres", reply: ProfileList{}, handle: (*server).profiles},
		{method: "POST", path: "/api/profiles/:id/shrink", id: "shrinkProfile", summary: "Save a feel of few hits leaning on a genre", body: service.ShrinkAsk{}, reply: profile.Profile{}, handle: (*server).shrinkProfile},
		{method: "DELETE", path: "/api/profiles/:id", id: "deleteProfile", summary: "Take a saved profile out of the library", handle: (*server).deleteProfile},
		{method: "POST", path: "/api/projects/:id/references/:ref/profile", id: "saveProfile", summary: "Save what was found in a reference", body: NewProfile{}, reply: profile.Profile{}, handle: (*server).saveProfile},
		{method: "POST", path: "/api/projects/:id/profile", id: "useProfile", summary: "Take a profile as reference", body: UseProfile{}, reply: service.State{}, handle: (*server).useProfile},
		{method: "POST", path: "/api/projects/:id/long/:long", id: "importStretch", summary: "Listen to a stretch of a file that is too long", body: service.Stretch{}, reply: jobs.Job{}, handle: (*server).importStretch},
		{method: "GET", path: "/api/recordings", id: "recordings", summary: "Recordings of other projects", query: []query{{"except", "Id of a project whose recordings are left out", false, ""}}, reply: RecordingList{}, handle: (*server).recordings},
		{method: "POST", path: "/api/projects/:id/recording", id: "useRecording", summary: "Add a reference of another project", body: UseRecording{}, reply: service.State{}, handle: (*server).useRecording},
		{method: "GET", path: "/api/long/:long", id: "long", summary: "A file of which a stretch must be chosen", reply: service.LongFile{}, handle: (*server).longFile},
		{method: "DELETE", path: "/api/long/:long", id: "dropLong", summary: "Discard the long file", handle: (*server).dropLong},
		{method: "GET", path: "/api/jobs", id: "jobs", summary: "The jobs that are remembered, also those that the program's end interrupted", reply: JobList{}, handle: (*server).listJobs},
		{method: "POST", path: "/api/jobs/:id/restart", id: "restartJob", summary: "Begin an interrupted job again", reply: jobs.Job{}, handle: (*server).restartJob},
		{method: "GET", path: "/api/jobs/:id", id: "job", summary: "How far a job has come", reply: jobs.Job{}, handle: (*server).job},
		{method: "GET", path: "/api/jobs/:id/fit", id: "fitted", summary: "How near a fit has come so far", reply: service.FitSoFar{}, handle: (*server).fitted},
		{method: "GET", path: "/api/jobs/:id/so-far", id: "soFar", summary: "What a running job has found so far", reply: service.SoFar{}, handle: (*server).soFar},
		{method: "DELETE", path: "/api/jobs/:id", id: "cancelJob", summary: "Cancel a job", handle: (*server).cancelJob},
		{method: "GET", path: "/api/openapi.json", id: "openapi", summary: "This document", media: "application/json", handle: (*server).openAPI},
	}
}

// pathParams say what the parameters in paths are.
var pathParams = map[string]string{
	"id": "Id of a project, or of a job", "ref": "Id of a reference", "voice": "Id of a voice", "game": "Id of a blind test", "long": "Id of a file of which a stretch must be chosen",
	"what": "loop, stems, one-shots, midi or project",
}

// Queries that several routes have.
var (
	part = []query{
		{"from", "Begin, seconds", true, 0.0}, {"to", "End, seconds", true, 0.0}, {"points", "How many, at most 4000", true, 0},
	}
	velocityQuery = query{"velocity", "Velocity of one-shots, 1 to 127", false, 110}
	chainQuery    = query{"chain", "1: one-shots go through the effects of their rows", false, 0}
	barsQuery     = query{"bars", "Bars; 0 for a whole cycle", false, 0}
	formatQuery   = query{"format", "Of sound files", false, format.WAV24}
)

var pathParam = regexp.MustCompile(`:(\w+)`)

// OpenAPI is the document of the API, OpenAPI 3.0.3, as indented JSON.
func OpenAPI() []byte { return openAPI(said()) }

func openAPI(said Comments) []byte {
	out, err := json.MarshalIndent(newSchemas(said).document(), "", "  ")
	if err != nil {
		panic(err) // made of plain maps
	}
	return append(out, '\n')
}

// document describes every route, and the types that they use.
func (s schemas) document() map[string]any {
	paths := map[string]map[string]any{}
	for _, r := range routes() {
		path := pathParam.ReplaceAllString(r.path, "{$1}")
		if paths[path] == nil {
			paths[path] = map[string]any{}
		}
		paths[path][strings.ToLower(r.method)] = r.operation(s)
	}
	// What goes over the monitor's WebSocket.
	s.of(reflect.TypeFor[live.Message]())
	s.of(reflect.TypeFor[live.Header]())
	return map[string]any{
		"openapi":    "3.0.3",
		"info":       map[string]any{"title": "Jubrak", "version": Version},
		"paths":      paths,
		"components": map[string]any{"schemas": s.byName},
	}
}

func (r *route) operation(s schemas) map[string]any {
	content := func(media string, schema any) map[string]any {
		return map[string]any{media: map[string]any{"schema": schema}}
	}
	params := []any{}
	for _, m := range pathParam.FindAllStringSubmatch(r.path, -1) {
		params = append(params, map[string]any{"name": m[1], "in": "path", "description": pathParams[m[1]], "required": true, "schema": map[string]any{"type": "string"}})
	}
	for _, q := range r.query {
		params = append(params, map[string]any{"name": q.name, "in": "query", "description": q.about, "required": q.required, "schema": s.of(reflect.TypeOf(q.of))})
	}
	ok := map[string]any{"description": "Done"}
	switch {
	case r.reply != nil:
		ok["content"] = content("application/json", s.of(reflect.TypeOf(r.reply)))
	case r.media != "":
		ok["content"] = content(r.media, map[string]any{"type": "string", "format": "binary"})
	}
	op := map[string]any{
		"operationId": r.id, "summary": r.summary, "parameters": params,
		"responses": map[string]any{
			"200":     ok,
			"default": map[string]any{"description": "Refused", "content": content("application/json", s.of(reflect.TypeOf(Failure{})))},
		},
	}
	if r.body != nil {
		op["requestBody"] = map[string]any{"required": true, "content": content("application/json", s.of(reflect.TypeOf(r.body)))}
	}
	if r.upload {
		op["requestBody"] = map[string]any{"required": true, "content": content("multipart/form-data", map[string]any{
			"type": "object", "required": []string{"file"},
			"properties": map[string]any{"file": map[string]any{"type": "string", "format": "binary"}},
		})}
	}
	return op
}
