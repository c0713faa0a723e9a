package shop

import (
	"bytes"
	"encoding/json"
	"testing/fstest"
	"time"

	"yewmoor/internal/device"
	"yewmoor/internal/piece"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/station/mix"
)

// Document is the OpenAPI document. Registering operations touches no
// database, so none is needed.
func Document() ([]byte, error) {
	s := &Shop{People: &accounts.Service{}, Pieces: &piece.Service{}, Mix: &mix.Service{Scale: device.NewSimulatedScale(1, time.Now)}}
	_, api, err := s.Handler(fstest.MapFS{})
	if err != nil {
		return nil, err
	}
	raw, err := json.Marshal(api.OpenAPI())
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = json.Indent(&out, raw, "", "  ")
	out.WriteByte('\n')
	return out.Bytes(), err
}
