package format

// blockSeconds is how much of an MP3 is decoded at once.
const blockSeconds = 5

// readMP3 leaves out what the encoder added before and after the sound. Frames
// before those that are kept are passed over, not decoded. report is called with how
// far it has come, 0..1, and can stop it.
func readMP3(data []byte, k *keeper, report func(float64) error) error {
	m, err := openMPG123(data)
	if err != nil {
		return fail(CodeDamaged, "The MP3 file holds no readable sound.")
	}
	defer m.close()
	k.start(m.rate, m.channels, uint64(m.frames))
	damaged := func() error {
		return fail(CodeDamaged, "The MP3 file is damaged after %.1f seconds.", float64(min(k.seen, m.whole))/float64(m.rate))
	}
	if first := min(k.first, m.whole); first > 0 {
		if err := m.seek(first); err != nil {
			return damaged()
		}
		k.skip(first)
	}
	block := make([][]float32, m.channels)
	for k.seen < m.whole {
		sound, err := m.read(min(m.whole-k.seen, int64(blockSeconds*m.rate)))
		if err != nil {
			return damaged()
		}
		if len(sound) == 0 {
			break
		}
		for c := range block {
			block[c] = block[c][:0]
			for i := c; i < len(sound); i += m.channels {
				block[c] = append(block[c], sound[i])
			}
		}
		if err := k.put(block); err != nil {
			return err
		}
		if err := report(float64(k.seen) / float64(m.frames)); err != nil {
			return err
		}
	}
	if m.whole < m.frames {
		return damaged()
	}
	return nil
}
