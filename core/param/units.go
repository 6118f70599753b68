package param

// Hertz is a frequency in Hz, logarithmic.
func Hertz(id, label string, low, high, value float64) Param {
	return Param{ID: id, Label: label, Unit: "Hz", Min: low, Max: high, Default: value, Scale: Log}
}

// Decibels is a level or gain in dB.
func Decibels(id, label string, low, high, value float64) Param {
	return Param{ID: id, Label: label, Unit: "dB", Min: low, Max: high, Default: value, Scale: DB}
}

// Milliseconds is a time in ms: logarithmic, or linear where it may be 0.
func Milliseconds(id, label string, low, high, value float64) Param {
	p := Param{ID: id, Label: label, Unit: "ms", Min: low, Max: high, Default: value, Scale: Log}
	if low <= 0 {
		p.Scale = Linear
	}
	return p
}

// Percent is a share in percent.
func Percent(id, label string, low, high, value float64) Param {
	return Param{ID: id, Label: label, Unit: "%", Min: low, Max: high, Default: value, Scale: Linear}
}

// Ratio is so much to one, logarithmic.
func Ratio(id, label string, low, high, value float64) Param {
	return Param{ID: id, Label: label, Unit: ": 1", Min: low, Max: high, Default: value, Scale: Log}
}

// Integer is a whole number.
func Integer(id, label string, low, high, value float64) Param {
	return Param{ID: id, Label: label, Min: low, Max: high, Default: value, Scale: Discrete}
}
