package mix

// LetDown is how an ingredient that is too little for a scale gets into a cup:
// one part of it stirred into more of something that is in the mix anyway, and
// so much more of that weighed.
type LetDown struct {
	Parts  float64 // of the carrier to one of it
	WeighG float64 // of the let-down
	LessG  float64 // of the carrier, on the sheet
}

// least is how many divisions of a scale a weight wants, so that one of them is
// five per cent of it.
const least = 20

// NeedsLetDown says whether a weight is too little for a scale that shows
// resolution g, and how it is let down: 1:9 or 1:99, whichever is enough.
func NeedsLetDown(grams, resolutionG float64) (LetDown, bool) {
	if resolutionG <= 0 || grams >= least*resolutionG {
		return LetDown{}, false
	}
	times := 10.0
	if grams*times < least*resolutionG {
		times = 100
	}
	return LetDown{times - 1, grams * times, grams * (times - 1)}, true
}
