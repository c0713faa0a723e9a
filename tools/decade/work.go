package main

import (
	"fmt"
	"strings"
	"time"
	"yewmoor/internal/copies"

	"github.com/google/uuid"
)

// letters makes a character's code of four letters.
func letters(n int) string {
	out := make([]byte, 4)
	for i := range out {
		out[3-i] = byte('A' + n%26)
		n /= 26
	}
	return string(out)
}

var looks = strings.Fields("scaled barnacled cracked salted hollow swollen scarred gilled horned mossy rusted burnt frayed ringed ribbed pitted waxen rooted feathered webbed stony knotted blistered weathered")

var regions = []string{"brow", "cheek", "nose", "chin", "neck", "ear"}

// production tells one production: its characters, days, pieces and kits. The
// last ones reach into the weeks to come.
func (d *decade) production(i int) {
	span := d.now.AddDate(0, 0, 25).Sub(d.start.AddDate(0, 0, 60))
	shoot := d.start.AddDate(0, 0, 60).Add(span / productions * time.Duration(i)).Truncate(24 * time.Hour)
	id := i + 1
	d.put("production (id, name)", id, fmt.Sprintf("Production %d", id))
	days := []int{}
	for n := range 6 {
		day := d.next("day")
		days = append(days, day)
		d.put("shooting_day (id, production_id, day, place, temp_c, rh, light)", day, id, shoot.AddDate(0, 0, n), "stage", 21, 0.5, "LED")
	}
	last := shoot.AddDate(0, 0, 5)
	for range 2 {
		character, performer := d.next("character"), d.next("performer")
		code := letters(character)
		d.put("performer (id, name)", performer, fmt.Sprintf("Wearer %d Fairlea", performer))
		d.put("`character` (id, production_id, code, name, performer_id)", character, id, code, fmt.Sprintf("the tinker %d", character), performer)
		d.put("form (id, code, performer_id, region, material, place, made_on)", performer, fmt.Sprintf("F-%04d", performer), performer, "face", "hard stone", "rack 2", shoot.AddDate(0, 0, -50))
		var packed []int
		for n := range perProduction / 2 {
			packed = append(packed, d.piece(character, code, n+1, shoot, last, days)...)
		}
		d.kits(days, packed, shoot)
	}
}

// piece tells one piece and returns its copies that are fit to pack.
func (d *decade) piece(character int, code string, n int, shoot, last time.Time, days []int) []int {
	id := d.next("piece")
	pieceCode := fmt.Sprintf("%s-%02d", code, n)
	begun := shoot.AddDate(0, 0, -40)
	var away any
	if last.Before(d.now.AddDate(0, 0, -14)) {
		away = last.AddDate(0, 0, 14)
	}
	place := "handover"
	if shoot.After(d.now) {
		place = "build"
	}
	d.put("piece (id, character_id, number, code, name, region, place, family, copies_wanted, created_at, put_away_at)", id, character, n, pieceCode, fmt.Sprintf("%s %s %d", looks[id%len(looks)], regions[n%len(regions)], id), regions[n%len(regions)], place, "silicone_addition", 3, begun, away)
	for _, kind := range []string{"brief", "section"} {
		doc := map[string]string{"brief": d.briefDoc, "section": d.sectionDoc}[kind]
		document := d.next("document")
		d.put("document (id, kind, piece_id)", document, kind, id)
		d.put("document_version (document_id, number, doc, signed, agreed_by, agreed_at)", document, 1, doc, "[]", 1, begun)
	}
	for _, day := range days[:2] {
		d.put("piece_day (piece_id, day_id)", id, day)
	}
	mould := d.next("mould")
	d.put("mould (id, piece_id, number, code, kind, material, state, release_agent, made_on)", mould, id, 1, pieceCode+"/M1", "two-part block", "hard stone", "resting", "wax paste", begun)
	d.put("volume_reading (piece_id, route, inputs, volume_ml, at, person_id)", id, "clay", `{"before":"500 g","after":"472 g"}`, 17.5, begun, 2)
	d.put("touch_up (piece_id, name, material_id, place, lab_l, lab_a, lab_b)", id, "cheek red", d.material["paint-alcohol"], "rims", 42, 24, 19)
	note := func(at time.Time, kind, what, act, words string) {
		if at.Before(d.now) {
			d.put("journal (at, person_id, device, piece_id, kind, code, act, words)", at, 1+d.rng.IntN(people), "Chromium on Linux", id, kind, what, act, words)
		}
	}
	note(begun, "piece", pieceCode, "begun", "")
	note(begun.Add(time.Hour), "brief", pieceCode, "agreed", "brief §1 agreed")
	note(begun.Add(2*time.Hour), "section", pieceCode, "agreed", "section §1 agreed")
	var fit []int
	made := 0
	for m := range 2 + d.rng.IntN(2) {
		at := begun.AddDate(0, 0, 12+8*m).Add(time.Duration(d.rng.IntN(480)) * time.Minute)
		if at.After(d.now) && d.next("standing") <= 8 {
			at = d.now.Add(-time.Duration(d.ids["standing"]) * 20 * time.Minute) // a pot that stands now
		}
		if at.After(d.now) {
			d.planned(id, at)
			continue
		}
		fit = append(fit, d.pour(id, mould, pieceCode, &made, at, note)...)
	}
	d.put("counter (name, value)", "copy "+pieceCode, made)
	return fit
}

// planned is a sheet that is written and waits; a few only stand on the bench.
func (d *decade) planned(piece int, at time.Time) {
	if d.next("waiting") > 8 {
		return
	}
	mix := d.next("mix")
	d.put("mix (id, code, piece_id, material_id, recipe, amount, planned_g, pours, state, planned_at, planned_by)", mix, fmt.Sprintf("X-%04d", mix), piece, d.material["silicone-gel"], recipe, amount, 40, 1, "planned", d.now.Add(-time.Hour), 1)
}

const (
	recipe = `{"parts":[{"id":"A","parts":1},{"id":"B","parts":1}],"additions":[{"id":"softener","percent":50}]}`
	amount = `{"copies":1}`
	// pourPlan is the one stage of a pour.
	pourPlan = `{"act":"pour","text":"Poured into the mould.","layer":"body","waits":"cure","wait_s":0,"ends":true}`
)

// pour is a mix with its weights, its run and its copies.
func (d *decade) pour(piece, mould int, pieceCode string, made *int, at time.Time, note func(time.Time, string, string, string, string)) []int {
	mix, run := d.next("mix"), d.next("run")
	code := fmt.Sprintf("X-%04d", mix)
	d.put("mix (id, code, piece_id, material_id, recipe, amount, planned_g, pours, state, contact_at, on_scale_at, planned_at, planned_by, ended_at)",
		mix, code, piece, d.material["silicone-gel"], recipe, amount, 40, 2, "poured", at, at, at.Add(-time.Hour), 1, at.Add(8*time.Minute))
	for seq, line := range []struct {
		slug, part, ingredient string
		grams                  float64
		lasts                  int
	}{
		{"silicone-gel", "A", "A", 13.1, 130}, {"softener", "", "softener", 13.1, 260}, {"pigment-flesh", "", "pigment-flesh", 0.24, 830},
		{"pigment-red", "", "pigment-red", 0.06, 830}, {"flock-red", "", "flock-red", 0.1, 400}, {"silicone-gel", "B", "B", 13.1, 130},
	} {
		lineID, weigh := d.next("line"), d.next("weigh")
		lot := d.lot(line.slug, line.part, line.lasts, at)
		d.put("mix_line (id, mix_id, seq, ingredient, material_id, lot_id, planned_g, done)", lineID, mix, seq+1, line.ingredient,
			d.material[line.slug], lot, line.grams, true)
		d.put("weigh_in (id, mix_line_id, grams, source, at, person_id, idem_key)", weigh, lineID, line.grams, "scale", at, 2, uuid.NewString())
		d.put("movement (lot_id, grams, reason, weigh_in_id, at, person_id)", lot, -line.grams, "weighed", weigh, at, 2)
		if seq < 3 {
			note(at, "mix", code, "weighed", fmt.Sprintf("%s: %.1f g", line.ingredient, line.grams))
		}
	}
	var over any
	if out := at.Add(5 * time.Hour); !out.After(d.now) {
		over = out
	}
	d.put("run (id, code, piece_id, way, section_number, started_at, person_id, ended_at)", run, fmt.Sprintf("R-%04d", run), piece, "cast", 1, at, 2, over)
	d.put("run_mix (run_id, mix_id, role)", run, mix, "body")
	d.put("run_stage (id, run_id, seq, plan, done_at, done_by)", run, run, 1, pourPlan, at, 2)
	note(at.Add(8*time.Minute), "run", fmt.Sprintf("R-%04d", run), "poured", code)
	var fit []int
	for range 1 + mix%2 {
		*made++
		if c, ok := d.copy(piece, mould, run, *made, pieceCode, at, note); ok {
			fit = append(fit, c)
		}
	}
	return fit
}

// copy is one cast with its pot, its finishing and its verdict, as far as it
// has come by now.
func (d *decade) copy(piece, mould, run, number int, pieceCode string, at time.Time, note func(time.Time, string, string, string, string)) (int, bool) {
	id := d.next("copy")
	code := pieceCode + "-" + copies.Letters(number)
	out, judgedAt := at.Add(5*time.Hour), at.Add(30*time.Hour)
	state, scrapped := copies.HandedOver, d.rng.IntN(12) == 0
	var ended any = out
	switch {
	case out.After(d.now):
		state, ended = copies.Making, nil
	case judgedAt.After(d.now):
		state = copies.Made
	case scrapped:
		state = copies.Scrapped
	}
	d.put("copy (id, piece_id, number, code, run_id, section_number, mould_id, state, made_at)", id, piece, number, code, run, 1, mould, string(state), at)
	d.put("pot (piece_id, copy_id, stage_id, label, kind, family, model, started_at, ended_at)", piece, id, run, code, "cure", "silicone_addition", d.sheet, at, ended)
	if state == copies.Making || state == copies.Made {
		if state == copies.Made {
			for seq, item := range []string{"trim", "seam", "edge", "colour_reading", "photograph"} {
				d.put("work_item (piece_id, copy_id, list, seq, item, kind, text)", piece, id, "finish", seq+1, item, item, item)
			}
		}
		return id, false
	}
	note(out, "copy", code, "demoulded", "")
	for _, item := range []string{"trim", "seam", "edge", "photograph"} {
		d.put("finish_tick (copy_id, item, at, person_id)", id, item, out.Add(2*time.Hour), 3)
	}
	verdict := "accept"
	if scrapped {
		verdict = "scrap"
	}
	d.put("verdict (copy_id, verdict, reason, at, person_id)", id, verdict, "", judgedAt, 1)
	note(judgedAt, "copy", code, verdict, "")
	return id, !scrapped
}

// kits packs what is fit into kits for the days.
func (d *decade) kits(days, fit []int, shoot time.Time) {
	for i, day := range days[:3] {
		part := fit[len(fit)*i/3 : len(fit)*(i+1)/3]
		if len(part) == 0 {
			continue
		}
		id := d.next("kit")
		at := shoot.AddDate(0, 0, i-1)
		var handed, received any
		if at.Before(d.now) {
			handed, received = at, at.Add(time.Hour)
		}
		d.put("kit (id, code, day_id, artist_id, created_at, created_by, handed_at, received_at, signed_name)", id, fmt.Sprintf("K-%03d", id), day, 1, at.AddDate(0, 0, -1), 1, handed, received, "Jun Abbot")
		for _, c := range part {
			d.put("kit_copy (kit_id, copy_id)", id, c)
			if handed != nil {
				d.put("copy_use (copy_id, day_id, kit_id)", c, day, id)
			}
		}
	}
}
