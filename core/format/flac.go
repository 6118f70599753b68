package format

// readFLAC reads all that is kept; frames before it are passed over, not
// decoded, where the file says how long it is. report is called with how far it has come,
// 0..1, and can stop it.
func readFLAC(data []byte, k *keeper, report func(float64) error) error {
	f, err := openFLAC(data)
	if err != nil {
		return err
	}
	defer func() { f.close() }()
	if f.rate == 0 || f.channels == 0 || f.bits == 0 {
		return fail(CodeUnusable, "The FLAC file says it has %d samples a second and %d channels, so it cannot be played.", f.rate, f.channels)
	}
	k.start(f.rate, f.channels, uint64(f.frames))
	if k.first > 0 && k.first < f.frames {
		if block, ok := f.seek(k.first); ok {
			k.skip(k.first)
			if err := k.put(block); err != nil {
				return err
			}
		} else { // then from the beginning
			f.close()
			if f, err = openFLAC(data); err != nil {
				return err
			}
		}
	}
	for block, ok := f.next(); ok; block, ok = f.next() {
		if err := k.put(block); err != nil {
			return err
		}
		if err := report(f.read()); err != nil {
			return err
		}
	}
	switch {
	case f.broken():
		return fail(CodeTruncated, "The FLAC file is damaged or cut short after %.1f seconds.", float64(k.seen)/float64(f.rate))
	case f.frames > 0 && k.seen < f.frames:
		return fail(CodeTruncated, "The FLAC file is cut short: %d of %d samples are there.", k.seen, f.frames)
	}
	return nil
}
