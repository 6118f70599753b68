package effect

// Renewed are the numbers that have another unit than they had up to schema 5 of documents,
// by the id that they had: the id they have, and what an old value is now.
var Renewed = map[string]struct {
	ID  string
	Now func(v float64) float64
}{
	"wow_percent":     {"wow_weighted_percent", func(v float64) float64 { return v / 100 * wowAtFull }},
	"flutter_percent": {"flutter_weighted_percent", func(v float64) float64 { return v / 100 * flutterAtFull }},
	"hiss_db":         {"hiss_rms_db", func(v float64) float64 { return max(v-hissWas, -80) }},
}

// hissWas is by how much hiss was softer, RMS, than its level said, dB.
const hissWas = 10.8

// bedWas is the same for each noise of a bed.
var bedWas = [5]float64{hissWas, 0, 4.4, 11.2, 6.4}

// upgradeRated gives values that were written before the ratings of machines their present ids.
func upgradeRated(values map[string]float64) {
	for was, is := range Renewed {
		if v, ok := values[was]; ok {
			delete(values, was)
			values[is.ID] = is.Now(v)
		}
	}
}

// upgradeBed does so for the level of a noise.
func upgradeBed(values map[string]float64) {
	if v, ok := values["level_db"]; ok {
		delete(values, "level_db")
		noise := min(max(int(values["noise"]), 0), len(bedWas)-1)
		values["rms_db"] = max(v-bedWas[noise], -80)
	}
}
