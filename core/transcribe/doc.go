// Package transcribe turns a recording into what was played in it. Its files stand in parts,
// named by how they begin, each using only those before it: what was heard, as data
// (analysis_*.go); tempo, beats and bar one (beat_*.go); hits with their families, times and
// strengths (hits_*.go); how loud the drums stand in a mix (mix_*.go); the report of pattern,
// feel and confidence that takes corrections (report_*.go); sections (outline.go); what a MIDI
// file says of the same (midi.go); and the whole, in order (analyze_*.go). What the trained
// networks see is in drumnet. It knows nothing of projects; docs/listening.md explains the
// method.
package transcribe
