package clock

import "time"

// noticeable is how far the machine's clock must move against the time that
// truly passed before it is worth a note.
const noticeable = 30 * time.Second

// Jump is how far the wall clock moved in one go between two readings: more, or
// less, than the time that passed. Small corrections are no jump.
func Jump(wall, passed time.Duration) (by time.Duration, jumped bool) {
	by = wall - passed
	return by, by > noticeable || by < -noticeable
}
