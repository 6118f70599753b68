package param

import (
	"math"
	"strconv"
	"strings"
)

// Text is a value with no more digits than one can hear.
func Text(v float64) string {
	digits := 1
	switch a := math.Abs(v); {
	case a >= 20 || a == math.Trunc(a):
		digits = 0
	case a < 1:
		digits = 2
	}
	text := strconv.FormatFloat(v, 'f', digits, 64)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return strings.Replace(text, "-", "−", 1)
}

// Signed is Text with a plus before what is above 0.
func Signed(v float64) string {
	if v > 0 {
		return "+" + Text(v)
	}
	return Text(v)
}

// HertzText is a frequency with its unit, from 1000 Hz on in kHz.
func HertzText(v float64) string {
	if v >= 1000 {
		return strings.TrimSuffix(strconv.FormatFloat(v/1000, 'f', 1, 64), ".0") + " kHz"
	}
	return strconv.FormatFloat(v, 'f', 0, 64) + " Hz"
}
