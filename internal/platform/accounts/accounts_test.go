package accounts

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestADeviceIsNamedInPlainWords(t *testing.T) {
	for header, want := range map[string]string{
		"Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36":                          "Chrome on Linux",
		"Mozilla/5.0 (iPad; CPU OS 18_5 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.5 Mobile/15E148 Safari/604.1": "Safari on iOS",
		"Mozilla/5.0 (Windows NT 10.0; Win64; x64; rv:141.0) Gecko/20100101 Firefox/141.0":                                               "Firefox on Windows",
		"": "unknown device",
	} {
		assert.Equal(t, want, DeviceName(header))
	}
	long := DeviceName(strings.Repeat("x", 5000) + "/1.0")
	assert.LessOrEqual(t, len([]rune(long)), 104, "a made-up name is cut")
	assert.NotContains(t, DeviceName("\xff\xfe/1.0"), "\xff", "and made proper text")
}

func TestAWaitIsSaidAsAPersonWould(t *testing.T) {
	assert.Equal(t, "5 seconds", seconds(4400*time.Millisecond))
	assert.Equal(t, "90 seconds", seconds(90*time.Second))
	assert.Equal(t, "3 minutes", seconds(150*time.Second))
}
