package web

import (
	"github.com/danielgtaylor/huma/v2"
)

// Bounds of what comes in where an operation states none of its own: every
// text and every list has an end, in the document and at the door alike.
const (
	longestText = 200
	longestList = 5000
)

// Bound gives every text and list of the operations that are registered so far
// its bound. Their validators read the same schemas.
func Bound(api huma.API) {
	doc := api.OpenAPI()
	seen := map[*huma.Schema]bool{}
	for _, s := range doc.Components.Schemas.Map() {
		bound(s, seen)
	}
	for _, item := range doc.Paths {
		for _, op := range []*huma.Operation{item.Get, item.Post, item.Put, item.Delete} {
			if op == nil {
				continue
			}
			for _, p := range op.Parameters {
				bound(p.Schema, seen)
			}
			if op.RequestBody != nil {
				for _, media := range op.RequestBody.Content {
					bound(media.Schema, seen)
				}
			}
		}
	}
}

func bound(s *huma.Schema, seen map[*huma.Schema]bool) {
	if s == nil || seen[s] {
		return
	}
	seen[s] = true
	changed := false
	switch s.Type {
	case huma.TypeString:
		if s.MaxLength == nil && len(s.Enum) == 0 && s.Format == "" && s.ContentEncoding == "" && s.Pattern == "" {
			n := longestText
			s.MaxLength, changed = &n, true
		}
	case huma.TypeArray:
		if s.MaxItems == nil {
			n := longestList
			s.MaxItems, changed = &n, true
		}
	}
	if changed {
		s.PrecomputeMessages()
	}
	bound(s.Items, seen)
	bound(s.Not, seen)
	for _, p := range s.Properties {
		bound(p, seen)
	}
	if inner, ok := s.AdditionalProperties.(*huma.Schema); ok {
		bound(inner, seen)
	}
	for _, list := range [][]*huma.Schema{s.OneOf, s.AnyOf, s.AllOf} {
		for _, inner := range list {
			bound(inner, seen)
		}
	}
}
