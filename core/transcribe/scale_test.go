package transcribe

import (
	"testing"

	"jubrak/core/format"
	"jubrak/core/music"
)

// long is a performance of so many notes: a beat of hats, kicks and snares with rolls, at
// 120 BPM.
func long(notes int) *format.Performance {
	p := &format.Performance{PPQ: 480, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Micros: 500000}}}
	put := func(tick, key, velocity int) {
		p.Notes = append(p.Notes, format.MIDINote{Tick: tick, Length: 20, Channel: 9, Key: key, Velocity: velocity})
	}
	for step := 0; len(p.Notes) < notes; step++ {
		tick := step * 120
		put(tick, 42, 70+step*37%50)
		if step%2 == 0 && step%64 > 40 { // a roll now and then
			put(tick+40, 42, 80)
			put(tick+80, 42, 60)
		}
		if step%8 == 0 {
			put(tick, 36, 110)
		}
		if step%8 == 4 {
			put(tick+step%5, 38, 100)
		}
	}
	return p
}

// BenchmarkPerformance is the time to take a MIDI file of 100,000 notes as a reference.
func BenchmarkPerformance(b *testing.B) {
	for name, n := range map[string]int{"12500": 12500, "25000": 25000, "50000": 50000, "100000": 100000} {
		p := long(n)
		b.Run(name, func(b *testing.B) {
			for range b.N {
				Finish(FromPerformance(p), nil)
			}
		})
	}
}
