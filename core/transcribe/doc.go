// Package transcribe turns a recording into what was played in it: hits with their families,
// times and strengths (hits_*.go), tempo, beats and bar one (beat_*.go), and a report of
// pattern, feel and confidence that takes corrections (report_*.go). What the trained networks
// see is in drumnet. It knows nothing of projects; docs/listening.md explains the method.
package transcribe
