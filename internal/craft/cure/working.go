package cure

// Texts of a part before a stage is reached.
var texts = map[string]string{StagePot: "still pourable", StageGel: "tacky", StageDemould: "firming", StageFull: "ready to come out"}

// Text is what a part is as long as a stage is not reached.
func Text(stage string) string { return texts[stage] }

// NextText is what a part is once a stage was seen.
func NextText(seen string) string {
	return texts[map[string]string{StagePot: StageGel, StageGel: StageDemould, StageDemould: StageFull}[seen]]
}

// WorkingTime is how long a mix may still be poured, in s, with its band.
type WorkingTime struct {
	Started  bool    `json:"started"`
	LeftS    float64 `json:"left_s"`
	LowS     float64 `json:"low_s"`
	HighS    float64 `json:"high_s"`
	Over     bool    `json:"over"`
	TempC    float64 `json:"temp_c"`
	Measured bool    `json:"measured" doc:"false where no reading of the room is there and the reference room is reckoned with"`
	SheetS   float64 `json:"sheet_s"`
	RefC     float64 `json:"ref_c"`
}

// Working is the pot life that is left of a mix along its temperatures,
// [[s since first contact, °C], …]; not started, what it would be at the last of
// them. Facts without usable times have nothing to count down.
func Working(f Facts, temps [][2]float64, started bool) WorkingTime {
	out := WorkingTime{Started: started, TempC: temps[len(temps)-1][1], SheetS: f.PotS, RefC: f.RefC}
	sheet, err := f.Sheet()
	if err != nil {
		return out
	}
	left, err := sheet.Left(StagePot, temps, nil)
	if err != nil {
		return out
	}
	out.LeftS, out.LowS, out.HighS, out.Over = left.RemainingS, left.LowS, left.HighS, left.State == Reached
	return out
}
