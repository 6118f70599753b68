package api

import (
	"bytes"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/service"
	"jubrak/core/export"
	"jubrak/core/project"
	"jubrak/core/transcribe"
)

// A project that was exported is opened again: references, corrections, layers,
// hits and feel are there, and the list returns of it.
func TestAnExportedProjectIsOpenedAgain(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	c := start(t)
	st := c.create()
	ref := c.bring(st.ID, "../../fixtures/gm/driving-140.flac")
	c.call("GET", "/api/projects/"+st.ID, nil, &st)
	base := "/api/projects/" + st.ID
	require.Equal(t, 200, c.edit(base, EditRequest{Base: st.Version, Edits: project.Edits{
		project.Correct{Reference: ref, Correction: transcribe.Correction{Kind: "double"}}, project.TakeBoth{}, project.SetNumber{At: "groove/feel/swing_percent", Value: 58},
	}}, &st))
	require.Equal(t, 200, c.send(fmt.Sprintf("%s/voices/kick/layers?base=%d", base, st.Version), "thump.wav", noise(t, 0.2), &st))
	req, err := http.NewRequest("GET", c.url+base+"/export/project", nil)
	require.NoError(t, err)
	_, archive := c.do(req)

	var job jobs.Job
	require.Equal(t, 200, c.send("/api/archives", "lap.jubrak", archive, &job))
	job = c.wait(job.ID)
	require.Equal(t, jobs.Done, job.Status, job.Error)
	require.Len(t, job.Notes, 1)
	assert.Contains(t, job.Notes[0], "came in: 5 voices")
	assert.Contains(t, job.Notes[0], "1 recorded sound, 1 reference, 1 correction")
	var again service.State
	require.Equal(t, 200, c.call("GET", "/api/projects/"+job.Result, nil, &again))
	assert.NotEqual(t, st.ID, again.ID)
	assert.Equal(t, st.Document, again.Document)
	var a transcribe.Analysis
	require.Equal(t, 200, c.call("GET", "/api/projects/"+again.ID+"/references/"+ref, nil, &a))
	assert.InDelta(t, 280, *a.Tempo, 2, "corrected as before")

	var list ProjectList
	require.Equal(t, 200, c.call("GET", "/api/projects", nil, &list))
	require.Len(t, list.Projects, 2)
	one := list.Projects[0]
	assert.Equal(t, "driving-140", one.Reference)
	assert.NotEmpty(t, one.Rows)
	assert.Nil(t, one.Outside, "not compared yet")
	assert.Greater(t, one.Size, int64(100000))
	assert.Greater(t, list.Size, one.Size)
	require.Equal(t, 200, c.call("GET", "/api/projects/"+one.ID+"/compare", nil, nil))
	require.Equal(t, 200, c.call("GET", "/api/projects", nil, &list))
	for _, p := range list.Projects {
		if p.ID == one.ID {
			require.NotNil(t, p.Outside)
			assert.Positive(t, *p.Measurable)
		}
	}

	// The sounds stay while either project names them, and go with the last.
	blobs := func() int {
		files, err := os.ReadDir(filepath.Join(c.dir, "blobs"))
		require.NoError(t, err)
		return len(files)
	}
	require.Equal(t, 2, blobs(), "a recording and a layer; the archive itself is gone")
	var copied service.State
	require.Equal(t, 200, c.call("POST", base+"/duplicate", nil, &copied))
	assert.Equal(t, "Lap (copy)", copied.Document.Name)
	require.Equal(t, 200, c.call("DELETE", base, nil, nil))
	require.Equal(t, 200, c.call("DELETE", "/api/projects/"+again.ID, nil, nil))
	assert.Equal(t, 2, blobs())
	// Removed in the present, they are still named by undo.
	require.Equal(t, 200, c.edit("/api/projects/"+copied.ID, EditRequest{Base: 1, Edits: project.Edits{project.RemoveReference{Reference: ref}}}, &copied))
	other := c.create()
	require.Equal(t, 200, c.call("DELETE", "/api/projects/"+other.ID, nil, nil))
	assert.Equal(t, 2, blobs())
	require.Equal(t, 200, c.call("DELETE", "/api/projects/"+copied.ID, nil, nil))
	assert.Zero(t, blobs())
}

func TestWhatIsNoArchive(t *testing.T) {
	c := start(t)
	var f Failure
	assert.Equal(t, 422, c.send("/api/archives", "x.jubrak", []byte("no zip"), &f))
	assert.Contains(t, f.Error.Message, "not a project archive")
	var job jobs.Job
	require.Equal(t, 200, c.send("/api/archives", "x.jubrak", []byte("PK\x03\x04 broken"), &job))
	job = c.wait(job.ID)
	assert.Equal(t, jobs.Failed, job.Status)
	assert.Contains(t, job.Error, "damaged")
	st := c.create()
	assert.Equal(t, 422, c.send("/api/projects/"+st.ID+"/references", "x.jubrak", []byte("PK\x03\x04"), &f))
	assert.Contains(t, f.Error.Message, "list of projects")
}

func TestLevelsBeforeDownloading(t *testing.T) {
	c := start(t)
	st := c.create()
	base := "/api/projects/" + st.ID
	edits := project.Edits{project.AddHit{Voice: "kick", Tick: 0, Velocity: 127}, project.SetNumber{At: "kick/level_db", Value: 12}}
	require.Equal(t, 200, c.edit(base, EditRequest{Base: 1, Edits: edits}, &st))
	var l export.Levels
	require.Equal(t, 200, c.call("GET", base+"/levels?bars=1", nil, &l))
	require.NotNil(t, l.Loop.Peak)
	assert.Positive(t, *l.Loop.Peak)
	assert.Positive(t, l.Loop.Over)
	var f Failure
	assert.Equal(t, 400, c.call("GET", base+"/levels?bars=-1", nil, &f))
	assert.Equal(t, 400, c.call("GET", base+"/export/loop?gain_db=40", nil, &f))
	assert.Equal(t, 200, c.call("GET", fmt.Sprintf("%s/export/loop?gain_db=%.2f", base, -*l.Loop.Peak), nil, nil))
}

// Lanes that meet again only after years are refused as a loop, with a sentence.
func TestALoopThatWouldNeverEnd(t *testing.T) {
	c := start(t)
	d := project.New("Coprime")
	for i, steps := range []int{61, 59, 53, 47, 43} {
		d.Groove.Lanes[i].Steps = steps
	}
	st, err := c.work.Create(d)
	require.NoError(t, err)
	var f Failure
	for _, what := range []string{"/export/loop", "/export/stems", "/export/midi", "/levels"} {
		assert.Equal(t, 422, c.call("GET", "/api/projects/"+st.ID+what, nil, &f), what)
		assert.Contains(t, f.Error.Message, "choose a number of bars")
	}
	assert.Equal(t, 200, c.call("POST", "/api/projects/"+st.ID+"/edits", EditRequest{Base: 1, Edits: project.Edits{project.AddHit{Voice: "kick"}}}, nil))
}

// An upload that breaks off is the sender's affair, and nothing of it stays.
func TestAnUploadThatBreaksOff(t *testing.T) {
	c := start(t)
	st := c.create()
	host := strings.TrimPrefix(c.url, "http://")
	conn, err := net.Dial("tcp", host)
	require.NoError(t, err)
	body := "--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"x.wav\"\r\n\r\nRIFF"
	_, err = fmt.Fprintf(conn, "POST /api/projects/%s/references HTTP/1.1\r\nHost: %s\r\nContent-Type: multipart/form-data; boundary=b\r\nContent-Length: 100000\r\n\r\n%s", st.ID, host, body)
	require.NoError(t, err)
	require.NoError(t, conn.(*net.TCPConn).CloseWrite())
	reply, err := io.ReadAll(conn)
	require.NoError(t, err)
	assert.True(t, bytes.HasPrefix(reply, []byte("HTTP/1.1 400")), string(reply))
	assert.Contains(t, string(reply), "upload_broken")
	left, err := os.ReadDir(filepath.Join(c.dir, "blobs"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

// Work that was under way when the program stopped is reported after the restart,
// can be begun again, and its file is kept so long.
func TestInterruptedWorkIsBegunAgain(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to a recording")
	}
	dir := t.TempDir()
	c := startIn(t, dir)
	st := c.create()
	var all []jobs.Job
	for i := range 8 {
		_, job, _ := c.upload(st.ID, fmt.Sprintf("lap-%d.flac", i), fixture(t))
		all = append(all, job)
	}
	c.stop()
	c = startIn(t, dir)
	var list JobList
	require.Equal(t, 200, c.call("GET", "/api/jobs", nil, &list))
	require.NotEmpty(t, list.Jobs)
	last := list.Jobs[len(list.Jobs)-1]
	assert.Equal(t, jobs.Interrupted, last.Status)
	assert.Equal(t, st.ID, last.Project)
	assert.Equal(t, "Listening to lap-7.flac", last.Title)
	var job jobs.Job
	require.Equal(t, 200, c.call("POST", "/api/jobs/"+last.ID+"/restart", nil, &job))
	assert.Equal(t, jobs.Done, c.wait(job.ID).Status)
	c.call("GET", "/api/projects/"+st.ID, nil, &st)
	assert.NotNil(t, st.Document.Reference(st.Document.Active))
	for _, j := range list.Jobs {
		c.call("DELETE", "/api/jobs/"+j.ID, nil, nil)
	}
	assert.Equal(t, 404, c.call("POST", "/api/jobs/"+last.ID+"/restart", nil, nil))
	c.stop()
	c = startIn(t, dir)
	require.Equal(t, 200, c.call("GET", "/api/jobs", nil, &list))
	assert.Empty(t, list.Jobs, "what was left is forgotten")
	assert.NotEmpty(t, all)
}

// Many uploads at once wait in line.
func TestManyUploadsWaitInLine(t *testing.T) {
	c := start(t)
	st := c.create()
	var last jobs.Job
	for i := range 20 {
		_, last, _ = c.upload(st.ID, fmt.Sprintf("%d.flac", i), fixture(t))
	}
	assert.Equal(t, jobs.Waiting, last.Status)
	assert.Positive(t, last.Ahead)
	var list JobList
	require.Equal(t, 200, c.call("GET", "/api/jobs", nil, &list))
	running := 0
	for _, j := range list.Jobs {
		if j.Status == jobs.Running {
			running++
		}
		require.Equal(t, 200, c.call("DELETE", "/api/jobs/"+j.ID, nil, nil))
	}
	assert.LessOrEqual(t, running, 8)
	assert.Equal(t, jobs.Cancelled, c.wait(last.ID).Status)
	require.Equal(t, 200, c.call("DELETE", "/api/projects/"+st.ID, nil, nil)) // the first may have been done
	require.Eventually(t, func() bool {
		left, err := os.ReadDir(filepath.Join(c.dir, "blobs"))
		return err == nil && len(left) == 0
	}, 90*time.Second, 10*time.Millisecond, "what was cancelled leaves nothing")
}
