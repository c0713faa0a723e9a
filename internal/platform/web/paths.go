package web

// Coded is an operation on the thing with a code in the path.
type Coded struct {
	Code string `path:"code"`
}

// ByID is an operation on the thing with an id in the path.
type ByID struct {
	ID uint64 `path:"id"`
}
