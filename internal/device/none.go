package device

import (
	"errors"
	"time"
)

// A shop without a device says so and types its own figures: nothing made up
// passes for a reading. These stand where a device would.

// ErrNone is the answer of a device that is not there.
var ErrNone = errors.New("there is no such device here")

// NoScale is a bench without a scale that is connected.
type NoScale struct{}

// Read implements Scale: nothing is connected.
func (NoScale) Read() ScaleReading { return ScaleReading{} }

// Tare implements Scale.
func (NoScale) Tare() error { return ErrUnplugged }

// Simulated implements Scale.
func (NoScale) Simulated() bool { return false }

// DivisionG implements Scale: of none nothing is known.
func (NoScale) DivisionG() float64 { return 0 }

// NoRoom is a wall without a sensor.
type NoRoom struct{}

// Between implements RoomSensor.
func (NoRoom) Between(time.Time, time.Time) []RoomReading { return nil }

// NoReader is a shop without a colour reader.
type NoReader struct{}

// Read implements ColourReader.
func (NoReader) Read(string, string) (l, a, b float64, err error) { return 0, 0, 0, ErrNone }

// ReadChip implements ColourReader.
func (NoReader) ReadChip(float64, float64, float64) (l, a, b float64, err error) {
	return 0, 0, 0, ErrNone
}

// NoForecast is a shop that nobody tells the weather.
type NoForecast struct{}

// Of implements Forecast.
func (NoForecast) Of(string, time.Time) (Weather, error) { return Weather{}, ErrNone }
