package plan

import (
	"slices"
	"sort"
)

// genes are a plan before it is built: the order in which blocks are placed, and what each step may or must.
type genes struct {
	order []int32  // blocks
	ot    []bool   // steps that may work overtime
	after []int32  // no start before this slot
	force []int16  // crew that does it; none for any
	group []int16  // oven batch that it goes into; 0 for any
	ver   []uint64 // of each block: what was last changed in it
}

func (m *model) plain() *genes {
	g := &genes{order: make([]int32, len(m.blocks)), ot: make([]bool, len(m.steps)), after: make([]int32, len(m.steps)), force: make([]int16, len(m.steps)), group: make([]int16, len(m.steps)), ver: make([]uint64, len(m.blocks))}
	for i := range g.order {
		g.order[i] = int32(i)
	}
	for i := range g.force {
		g.force[i] = none
	}
	return g
}

func (g *genes) copy(from *genes) {
	copy(g.order, from.order)
	copy(g.ot, from.ot)
	copy(g.after, from.after)
	copy(g.force, from.force)
	copy(g.group, from.group)
	copy(g.ver, from.ver)
}

// busy is when a person or a thing is taken, sorted by its begin.
type busy struct{ begin, end, owner int32 }

type batch struct{ start, end, family, load, n int32 }

// placedStep is where a step lies while a plan is built.
type placedStep struct {
	on         bool
	start, end int32
	mode       int16
}

type placedHold struct {
	begun, done bool // its first event is placed; both are
	res         int16
	begin, end  int32
}

// entry is a block as it was placed, with the version of its genes.
type entry struct {
	block int32
	key   uint64
	steps []int32
}

// builder places blocks one after the other, and takes them back in reverse (section 7.3).
type builder struct {
	m       *model
	g       *genes
	at      []placedStep
	hold    []placedHold
	person  [][]busy
	unit    [][]busy
	load    [][]int32 // of what there is several of: taken per slot
	oven    [][]batch
	casts   []int // on each mould
	low     []int32
	lowEnd  []int32
	placed  []entry
	pos     []int32 // of a step within the block that is being placed
	inBlock []int32 // number of the block run that a step belongs to
	run     int32
	state   []int8 // of a block while the order is worked out
	groups  [][]int32
	seq     []entry
	members []int32
	lens    []int
	stack   []int32
	grouped bool // some steps share a batch
	closing []int
}

// mostTries bounds how often a block is bumped before its list is given up.
const mostTries = 3000

func newBuilder(m *model) *builder {
	b := &builder{m: m, at: make([]placedStep, len(m.steps)), hold: make([]placedHold, len(m.holds)), person: make([][]busy, len(m.people)), unit: make([][]busy, len(m.res)), load: make([][]int32, len(m.res)), oven: make([][]batch, len(m.res)),
		casts: make([]int, len(m.res)), low: make([]int32, len(m.steps)), lowEnd: make([]int32, len(m.steps)), pos: make([]int32, len(m.steps)), inBlock: make([]int32, len(m.steps)), state: make([]int8, len(m.blocks)), groups: make([][]int32, len(m.ovens)/2+2)}
	for r := range m.res {
		if !m.res[r].unit && !m.res[r].oven {
			b.load[r] = make([]int32, m.h+m.res[r].turn+2)
		}
	}
	for i := range m.steps {
		if s := &m.steps[i]; s.fixed {
			b.at[i] = placedStep{true, int32(s.fs), int32(s.fe), none}
			for _, p := range s.fpeople {
				b.person[p] = insert(b.person[p], busy{int32(s.fs), int32(s.fe), int32(i)})
			}
		}
	}
	for i := range m.holds {
		h := &m.holds[i]
		if !m.steps[h.from].fixed {
			continue
		}
		p := &b.hold[i]
		p.begun, p.res, p.begin = true, int16(h.given), int32(b.event(h.from, h.fe))
		if m.res[h.given].left != none && !h.counted {
			b.casts[h.given]++
		}
		end := int32(m.h) // begun and not over: closed to everybody until the rest of it is placed
		if m.steps[h.to].fixed {
			p.done = true
			end = int32(b.event(h.to, h.te))
		}
		p.end = end
		b.take(i, p.begin, end)
	}
	return b
}

func insert(list []busy, v busy) []busy {
	at := sort.Search(len(list), func(k int) bool {
		return list[k].begin > v.begin || list[k].begin == v.begin && list[k].owner > v.owner
	})
	list = append(list, busy{})
	copy(list[at+1:], list[at:])
	list[at] = v
	return list
}

func remove(list []busy, begin, owner int32) []busy {
	at := after(list, begin)
	for at > 0 && list[at-1].begin >= begin {
		at--
	}
	for ; at < len(list); at++ {
		if list[at].owner == owner && list[at].begin == begin {
			return append(list[:at], list[at+1:]...)
		}
	}
	return list
}

// after is the first entry that begins after a slot.
func after(list []busy, slot int32) int {
	lo, hi := 0, len(list)
	for lo < hi {
		mid := int(uint(lo+hi) >> 1)
		if list[mid].begin > slot {
			hi = mid
		} else {
			lo = mid + 1
		}
	}
	return lo
}

// wide is the end of the first entry from k on that is followed by a gap of so many slots: what is shorter is not looked at.
func wide(list []busy, k, length int) int {
	for k+1 < len(list) && int(list[k+1].begin-list[k].end) < length {
		k++
	}
	return int(list[k].end)
}

func (b *builder) event(step, e int) int {
	if e == 0 {
		return int(b.at[step].start)
	}
	return int(b.at[step].end)
}

// take writes a hold's resource down as taken.
func (b *builder) take(h int, begin, end int32) {
	r := int(b.hold[h].res)
	res := &b.m.res[r]
	switch {
	case res.oven:
		list := b.oven[r]
		fam := int32(b.m.steps[b.m.holds[h].from].family)
		at := 0
		for at < len(list) && list[at].start < begin {
			at++
		}
		if at < len(list) && list[at].start == begin && list[at].family == fam {
			list[at].load += int32(b.m.holds[h].qty)
			list[at].n++
			return
		}
		list = append(list, batch{})
		copy(list[at+1:], list[at:])
		list[at] = batch{begin, end, fam, int32(b.m.holds[h].qty), 1}
		b.oven[r] = list
	case res.unit:
		b.unit[r] = insert(b.unit[r], busy{begin, end + int32(res.turn), int32(h)})
	case begin < end:
		load := b.load[r]
		for t := begin; t < end+int32(res.turn); t++ {
			load[t] += int32(b.m.holds[h].qty)
		}
	}
}

// give takes it back.
func (b *builder) give(h int, begin, end int32) {
	r := int(b.hold[h].res)
	res := &b.m.res[r]
	switch {
	case res.oven:
		list := b.oven[r]
		for at := range list {
			if list[at].start == begin && list[at].family == int32(b.m.steps[b.m.holds[h].from].family) {
				list[at].load -= int32(b.m.holds[h].qty)
				if list[at].n--; list[at].n == 0 {
					b.oven[r] = append(list[:at], list[at+1:]...)
				}
				return
			}
		}
	case res.unit:
		b.unit[r] = remove(b.unit[r], begin, int32(h))
	case begin < end:
		load := b.load[r]
		for t := begin; t < end+int32(res.turn); t++ {
			load[t] -= int32(b.m.holds[h].qty)
		}
	}
}

// free tells whether a resource can be held over [begin, end); if not, from when on the hold could begin. A hold whose place on
// the resource is its own does not stand in its way.
func (b *builder) free(h, r int, begin, end int) (bool, int) {
	res := &b.m.res[r]
	for _, d := range res.down {
		if begin < d[1] && d[0] < end {
			return false, d[1]
		}
		if d[0] >= end {
			break
		}
	}
	switch {
	case res.oven:
		fam, qty := int32(b.m.steps[b.m.holds[h].from].family), int32(b.m.holds[h].qty)
		next := far
		ok := true
		for i := range b.oven[r] {
			o := &b.oven[r][i]
			gap := res.turn
			if o.family != fam {
				gap += res.change
			}
			if int(o.start) == begin && o.family == fam {
				if o.load+qty <= int32(res.capacity) {
					continue
				}
				ok, next = false, min(next, int(o.end)+gap)
				continue
			}
			if begin >= int(o.end)+gap || int(o.start) >= end+gap {
				continue
			}
			ok = false
			if int(o.start) > begin && o.family == fam && o.load+qty <= int32(res.capacity) {
				next = min(next, int(o.start))
			}
			next = min(next, int(o.end)+gap)
		}
		if ok {
			return true, 0
		}
		return false, max(next, begin+1)
	case res.unit:
		list := b.unit[r]
		at := after(list, int32(end+res.turn-1)) // those before it begin before our end and turnaround
		// Held spans do not overlap, so that only the last one that begins before can reach us.
		for k := at - 1; k >= 0; k-- {
			if int(list[k].owner) == h {
				continue
			}
			if int(list[k].end) > begin {
				return false, wide(list, k, max(1, end+res.turn-begin))
			}
			return true, 0
		}
		return true, 0
	}
	if begin == end {
		return true, 0
	}
	load, qty := b.load[r], int32(b.m.holds[h].qty)
	for t := min(end+res.turn, len(load)) - 1; t >= begin; t-- {
		if load[t]+qty > int32(res.capacity) {
			return false, t + 1
		}
	}
	return true, 0
}

// choose finds a resource for a hold over [begin, end): that which was left last, so that the others stay free. If there is none:
// from when on one could be had.
func (b *builder) choose(h, begin, end int) (res, next int) {
	hold := &b.m.holds[h]
	next, res = far, none
	best := int32(none)
	for _, r := range hold.choices {
		if left := b.m.res[r].left; left != none && b.casts[r] >= left {
			continue
		}
		ok, from := b.free(h, r, begin, end)
		if !ok {
			next = min(next, from)
			continue
		}
		if len(hold.choices) == 1 {
			return r, 0
		}
		last := int32(0)
		if b.m.res[r].unit {
			if at := after(b.unit[r], int32(begin)); at > 0 {
				last = b.unit[r][at-1].end
			}
		} else if b.m.res[r].oven && slices.ContainsFunc(b.oven[r], func(o batch) bool { return int(o.start) == begin }) {
			last = int32(b.m.h) // join rather than heat another
		}
		if last > best {
			best, res = last, r
		}
	}
	return res, next
}

// What became of a step that was to be put.
const (
	laid  = iota
	waits // another must go later first
	nowhere
)

// put finds the earliest place of a step and lays it there.
func (b *builder) put(i int) (int, bump) {
	// What a started hold keeps closed ends with this step: it does not stand in the way of what the step itself takes then.
	b.closing = b.closing[:0]
	b.closed(i)
	for _, h := range b.closing {
		b.give(h, b.hold[h].begin, int32(b.m.h))
	}
	start, end, mode, v := b.search(i)
	for _, h := range b.closing {
		b.take(h, b.hold[h].begin, int32(b.m.h))
	}
	switch {
	case mode != none:
		b.lay(i, start, end, mode)
		return laid, bump{}
	case v != (bump{}):
		return waits, v
	}
	return nowhere, bump{}
}

// closed finds the holds that began at a fixed step and end at this one, which is not placed.
func (b *builder) closed(i int) {
	for _, h := range b.m.steps[i].finishes {
		if p := &b.hold[h]; b.m.holds[h].from != i && p.begun && !p.done && b.m.steps[b.m.holds[h].from].fixed {
			b.closing = append(b.closing, h)
		}
	}
}

// search finds the earliest place of a step: its mode is none where there is none, and the bump says what must go later first.
func (b *builder) search(i int) (start, until, mode int, v bump) {
	s := &b.m.steps[i]
	lowS, lowE := max(s.release, int(b.low[i]), int(b.g.after[i])), int(b.lowEnd[i])
	raise := func(e, v int) {
		if e == 0 {
			lowS = max(lowS, v)
		} else {
			lowE = max(lowE, v)
		}
	}
	for _, l := range s.in {
		ml := &b.m.links[l]
		if b.at[ml.from].on && ml.from != i {
			raise(ml.te, b.event(ml.from, ml.fe)+ml.min)
		}
	}
	for _, l := range s.out {
		ml := &b.m.links[l]
		if ml.bounded && b.at[ml.to].on && ml.to != i {
			raise(ml.fe, b.event(ml.to, ml.te)-ml.max)
		}
	}
	for _, h := range s.finishes {
		if hold := &b.m.holds[h]; hold.from != i && b.hold[h].begun {
			raise(hold.te, int(b.hold[h].begin))
		}
	}
	exact, partner := none, none
	if g := b.g.group[i]; g > 0 {
		for _, k := range b.groups[g] {
			if int(k) != i && b.at[k].on {
				exact, partner = int(b.at[k].start), int(k)
				break
			}
		}
	}
	bestS, bestE, bestM, bestOT := 0, far, none, int32(0)
	ub := s.deadline
	for k := range s.modes {
		md := &s.modes[k]
		if md.ot && !b.g.ot[i] || md.tab != nil && b.g.force[i] != none && int(b.g.force[i]) != md.crew {
			continue
		}
		at := b.m.startFor(s, md, lowS, lowE)
		if exact != none {
			if at > exact { // the batch that it goes into is heated later
				return 0, 0, none, bump{partner, 0, at}
			}
			at = exact
		}
	walk:
		for at <= b.m.h {
			end := b.m.endAt(s, md, at)
			if end > ub || end > bestE {
				break
			}
			if md.tab != nil {
				for _, p := range s.crews[md.crew].people {
					list := b.person[p]
					if k := after(list, int32(end-1)); k > 0 && int(list[k-1].end) > at {
						at = b.m.start(md, wide(list, k-1, s.length))
						continue walk
					}
				}
			}
			for _, h := range s.begins {
				hold := &b.m.holds[h]
				begin := at
				if hold.fe == 1 {
					begin = end
				}
				until := begin + hold.least
				switch {
				case hold.to == i && hold.te == 1:
					until = end
				case hold.to == i:
					until = at
				case b.at[hold.to].on:
					until = max(begin, b.event(hold.to, hold.te))
				}
				if r, next := b.choose(h, begin, until); r == none {
					if next >= far {
						at = b.m.h + 1
						continue walk
					}
					if hold.fe == 0 {
						at = b.m.start(md, max(next, at+1))
					} else {
						at = b.m.startFor(s, md, at+1, next)
					}
					continue walk
				}
			}
			ot := int32(0)
			if md.tab != nil {
				ot = md.tab.ot[at]
			}
			if end < bestE || end == bestE && b.better(s, k, bestM, ot, bestOT, at, bestS) {
				bestS, bestE, bestM, bestOT = at, end, k, ot
			}
			break
		}
	}
	return bestS, bestE, bestM, bump{}
}

// better breaks ties of the end: less overtime, fewer skills in the crew, a later start, then the first people.
func (b *builder) better(s *mstep, k, was int, ot, wasOT int32, at, wasAt int) bool {
	if ot != wasOT {
		return ot < wasOT
	}
	if c, o := s.modes[k].crew, s.modes[was].crew; c != none && o != none {
		if n, w := s.crews[c].skills, s.crews[o].skills; n != w {
			return n < w
		}
	}
	return at > wasAt
}

// lay writes a step down, with the holds that it begins and ends. A hold that ends keeps its resource if that is free over the
// whole of it, else takes another of its choice.
func (b *builder) lay(i, start, end, md int) {
	s := &b.m.steps[i]
	b.at[i] = placedStep{true, int32(start), int32(end), int16(md)}
	if s.modes[md].tab != nil {
		for _, p := range s.crews[s.modes[md].crew].people {
			b.person[p] = insert(b.person[p], busy{int32(start), int32(end), int32(i)})
		}
	}
	for _, h := range s.begins {
		hold := &b.m.holds[h]
		p := &b.hold[h]
		begin := b.event(i, hold.fe)
		until := begin + hold.least
		if b.at[hold.to].on {
			until = max(begin, b.event(hold.to, hold.te))
		}
		r, _ := b.choose(h, begin, until)
		p.begun, p.done, p.begin, p.res = true, false, int32(begin), int16(r)
		if r != none && b.m.res[r].left != none {
			b.casts[r]++
		}
		if b.at[hold.to].on && r != none {
			p.done, p.end = true, int32(until)
			b.take(h, p.begin, p.end)
		}
	}
	for _, h := range s.finishes {
		hold := &b.m.holds[h]
		p := &b.hold[h]
		if hold.from == i || !p.begun || p.done {
			continue
		}
		if b.m.steps[hold.from].fixed {
			b.give(h, p.begin, int32(b.m.h)) // it was closed to everybody
		}
		until := b.event(i, hold.te)
		ok := p.res != none
		if ok {
			ok, _ = b.free(h, int(p.res), int(p.begin), until)
		}
		if !ok && !b.m.steps[hold.from].fixed {
			b.unchoose(h)
			r, _ := b.choose(h, int(p.begin), until)
			p.res = int16(r)
			if r == none {
				continue // the conflict is told by broken
			}
			if b.m.res[r].left != none {
				b.casts[r]++
			}
		}
		p.done, p.end = true, int32(until)
		b.take(h, p.begin, p.end)
	}
}

func (b *builder) unchoose(h int) {
	p := &b.hold[h]
	if p.res != none && b.m.res[p.res].left != none {
		b.casts[p.res]--
	}
	p.res = none
}

// lift takes a step up again.
func (b *builder) lift(i int) {
	s := &b.m.steps[i]
	at := &b.at[i]
	for _, h := range s.finishes {
		hold := &b.m.holds[h]
		p := &b.hold[h]
		if hold.from == i {
			continue
		}
		if p.done {
			b.give(h, p.begin, p.end)
			p.done = false
		}
		if b.m.steps[hold.from].fixed && p.begun {
			p.end = int32(b.m.h)
			b.take(h, p.begin, p.end)
		}
	}
	for _, h := range s.begins {
		p := &b.hold[h]
		if p.done {
			b.give(h, p.begin, p.end)
		}
		b.unchoose(h)
		p.begun, p.done = false, false
	}
	if md := s.modes[at.mode]; md.tab != nil {
		for _, p := range s.crews[md.crew].people {
			b.person[p] = remove(b.person[p], at.start, int32(i))
		}
	}
	at.on = false
}

// bump is a step that must go later, and to where.
type bump struct {
	step, event, to int
}

// broken is what a step that was just laid breaks, and who must give way.
func (b *builder) broken(i int) (bump, bool) {
	s := &b.m.steps[i]
	if g := b.g.group[i]; g > 0 {
		for _, k := range b.groups[g] {
			if int(k) != i && b.at[k].on && b.at[k].start != b.at[i].start {
				if b.at[k].start < b.at[i].start {
					return bump{int(k), 0, int(b.at[i].start)}, true
				}
				return bump{i, 0, int(b.at[k].start)}, true
			}
		}
	}
	for _, l := range s.in {
		ml := &b.m.links[l]
		if ml.from != i && ml.bounded && b.at[ml.from].on {
			if lag := b.event(i, ml.te) - b.event(ml.from, ml.fe); lag > ml.max {
				return bump{ml.from, ml.fe, b.event(i, ml.te) - ml.max}, true
			}
		}
	}
	for _, l := range s.out {
		ml := &b.m.links[l]
		if ml.to != i && b.at[ml.to].on {
			if lag := b.event(ml.to, ml.te) - b.event(i, ml.fe); lag < ml.min {
				return bump{ml.to, ml.te, b.event(i, ml.fe) + ml.min}, true
			}
		}
	}
	for _, list := range [2][]int{s.begins, s.finishes} {
		for _, h := range list {
			hold := &b.m.holds[h]
			p := &b.hold[h]
			if p.begun && p.res == none && hold.from == i && hold.to == i {
				return bump{i, 0, int(b.at[i].start) + 1}, true // two of its own uses stand in each other's way
			}
			if !b.at[hold.from].on || !b.at[hold.to].on || hold.from == hold.to {
				continue
			}
			begin, end := b.event(hold.from, hold.fe), b.event(hold.to, hold.te)
			if end < begin {
				return bump{hold.to, hold.te, begin}, true
			}
			if p.res == none {
				_, next := b.choose(h, begin, end)
				if next >= far {
					next = begin + 1
				}
				return bump{hold.from, hold.fe, max(next, begin+1)}, true
			}
		}
	}
	return bump{}, false
}

// block places the steps of one entry, bumping what is in the way within it; false when it cannot.
func (b *builder) block(steps []int32) bool {
	b.run++
	for k, i := range steps {
		b.pos[i], b.inBlock[i], b.low[i], b.lowEnd[i] = int32(k), b.run, 0, 0
	}
	tries := 0
	for k := 0; k < len(steps); {
		i := int(steps[k])
		became, v := b.put(i)
		switch became {
		case nowhere:
			b.undo(steps[:k])
			return false
		case laid:
			var broke bool
			if v, broke = b.broken(i); !broke {
				k++
				continue
			}
		}
		tries++
		if tries > mostTries || b.m.steps[v.step].fixed || b.inBlock[v.step] != b.run || v.to > b.m.h {
			b.undo(steps[:k+1])
			return false
		}
		back := int(b.pos[v.step])
		b.undo(steps[back : k+1])
		if v.event == 0 {
			b.low[v.step] = max(b.low[v.step], int32(v.to))
		} else {
			b.lowEnd[v.step] = max(b.lowEnd[v.step], int32(v.to))
		}
		k = back
	}
	return true
}

// undo lifts steps, the last first.
func (b *builder) undo(steps []int32) {
	for k := len(steps) - 1; k >= 0; k-- {
		if b.at[steps[k]].on {
			b.lift(int(steps[k]))
		}
	}
}

// sequence is the order in which entries are placed: the list, each after what it waits for; false when oven batches tie blocks
// into a ring.
func (b *builder) sequence() bool {
	for i := range b.state {
		b.state[i] = 0
	}
	b.seq, b.members, b.lens, b.stack, b.grouped = b.seq[:0], b.members[:0], b.lens[:0], b.stack[:0], false
	for i := range b.groups {
		b.groups[i] = b.groups[i][:0]
	}
	for _, i := range b.m.ovens {
		if g := b.g.group[i]; g > 0 {
			b.groups[g] = append(b.groups[g], int32(i))
			b.grouped = true
		}
	}
	for pass := range 2 {
		for _, k := range b.g.order {
			if (pass == 0) == b.m.blocks[k].first && b.state[k] == 0 && !b.visit(k) {
				return false
			}
		}
	}
	at := 0
	for i := range b.seq {
		b.seq[i].steps = b.members[at : at+b.lens[i]]
		at += b.lens[i]
	}
	return true
}

// visit lays a block, with those that it shares oven batches with, behind what they wait for.
func (b *builder) visit(k int32) bool {
	from := len(b.stack)
	b.stack = append(b.stack, k)
	if b.grouped {
		for n := from; n < len(b.stack); n++ {
			for _, i := range b.m.blocks[b.stack[n]].steps {
				if g := b.g.group[i]; g > 0 {
					for _, j := range b.groups[g] {
						if o := int32(b.m.steps[j].block); !slices.Contains(b.stack[from:], o) {
							b.stack = append(b.stack, o)
						}
					}
				}
			}
		}
	}
	until := len(b.stack)
	for n := from; n < until; n++ {
		b.state[b.stack[n]] = 1
	}
	for n := from; n < until; n++ {
		for _, p := range b.m.blocks[b.stack[n]].preds {
			if b.state[p] == 2 || slices.Contains(b.stack[from:until], int32(p)) {
				continue
			}
			if b.state[p] == 1 || !b.visit(int32(p)) {
				return false
			}
		}
	}
	key, at := uint64(0), len(b.members)
	for n := from; n < until; n++ {
		t := b.stack[n]
		b.state[t] = 2
		key += (b.g.ver[t] + 1) * (2*uint64(t) + 0x9e3779b97f4a7c15)
		for _, i := range b.m.blocks[t].steps {
			b.members = append(b.members, int32(i))
		}
	}
	if until-from > 1 {
		slices.SortFunc(b.members[at:], func(x, y int32) int { return b.m.rank[x] - b.m.rank[y] })
	}
	b.stack = b.stack[:from]
	b.seq, b.lens = append(b.seq, entry{block: k, key: key}), append(b.lens, len(b.members)-at)
	return true
}

// build makes the plan of genes: what stands already as they want it stays, the rest is taken up and laid anew.
func (b *builder) build(g *genes) bool {
	b.g = g
	if !b.sequence() {
		return false
	}
	keep := 0
	for keep < len(b.placed) && keep < len(b.seq) && b.placed[keep].block == b.seq[keep].block && b.placed[keep].key == b.seq[keep].key {
		keep++
	}
	for k := len(b.placed) - 1; k >= keep; k-- {
		b.undo(b.placed[k].steps)
	}
	b.placed = b.placed[:keep]
	for k := keep; k < len(b.seq); k++ {
		if !b.block(b.seq[k].steps) {
			return false
		}
		// The steps are kept apart: the sequence is written over by the next one.
		var own []int32
		if len(b.placed) < cap(b.placed) {
			own = b.placed[:len(b.placed)+1][len(b.placed)].steps[:0]
		}
		b.placed = append(b.placed, entry{b.seq[k].block, b.seq[k].key, append(own, b.seq[k].steps...)})
	}
	return true
}

// value is the objective of what is built.
func (b *builder) value() Objective {
	var o Objective
	for j := range b.m.jobs {
		job := &b.m.jobs[j]
		if !job.has {
			continue
		}
		done := b.completion(j)
		o.Late += job.weight * max(0, done-job.due)
		o.Risk += job.risk * max(0, done-(job.due-job.buffer))
	}
	for i := range b.at {
		if p := &b.at[i]; p.on && p.mode != none {
			if md := &b.m.steps[i].modes[p.mode]; md.tab != nil {
				o.Overtime += int(md.tab.ot[p.start])
			}
		}
	}
	for i := range b.m.soon {
		if b.moved(&b.m.soon[i]) {
			o.Moved++
		}
	}
	return o
}

func (b *builder) completion(j int) int {
	done := int32(0)
	for _, i := range b.m.jobs[j].steps {
		done = max(done, b.at[i].end)
	}
	return int(done)
}

func (b *builder) moved(base *baseline) bool {
	p := &b.at[base.step]
	if int(p.start) != base.start {
		return true
	}
	s := &b.m.steps[base.step]
	var people []int
	if md := s.modes[p.mode]; md.tab != nil {
		people = s.crews[md.crew].people
	}
	if !slices.Equal(people, base.people) {
		return true
	}
	for k, h := range base.holds {
		if int(b.hold[h].res) != base.res[k] {
			return true
		}
	}
	return false
}

// plan writes what is built as a document.
func (b *builder) plan() []Placed {
	out := make([]Placed, len(b.m.steps))
	for i := range b.m.steps {
		s, p := &b.m.steps[i], &b.at[i]
		row := Placed{ID: s.id, Start: int(p.start), End: int(p.end)}
		people := s.fpeople
		if !s.fixed {
			if md := s.modes[p.mode]; md.tab != nil {
				people = s.crews[md.crew].people
				row.Overtime = md.ot
			}
		}
		for _, n := range people {
			row.People = append(row.People, b.m.people[n].id)
		}
		for _, h := range s.begins {
			if row.Resources == nil {
				row.Resources = map[string]string{}
			}
			row.Resources[b.m.holds[h].id] = b.m.res[b.hold[h].res].id
		}
		out[i] = row
	}
	return out
}
