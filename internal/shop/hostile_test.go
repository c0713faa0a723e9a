package shop_test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"yewmoor/internal/platform/problem"
	"yewmoor/internal/shop/hostile"
	"yewmoor/internal/shop/shoptest"
)

// The short form of `make attack`: every operation, as the document has it and
// then with something wrong. None may answer with a fault of ours, and every
// answer is whole.
func TestEveryOperationHoldsUnderMutatedRequests(t *testing.T) {
	b := shoptest.New(t, nil)
	b.Stocked()
	code := b.Begun()
	b.Poured(code)
	document, err := b.API.OpenAPI().Downgrade()
	require.NoError(t, err)
	k, err := hostile.New(document, 7)
	require.NoError(t, err)
	k.Known = map[string][]string{"code": {code, code + "-a", "X-0001", "R-0001", "24-117"}, "piece": {code}, "material": {"silicone-gel", "latex"}, "id": {"1", "2"}}
	sent, unforeseen := map[int]int{}, problem.Unforeseen()
	for _, o := range k.Operations() {
		// Signing out, and whatever ends a sign-in or waits for ever, ends the test.
		if strings.HasPrefix(o.Path, "/api/sign-") || strings.HasPrefix(o.Path, "/api/people") || o.Path == "/api/me/password" {
			continue
		}
		for wrong := range hostile.Wrongs + 1 {
			r := k.Make(o, wrong)
			status, raw := send(t, b, r)
			sent[status/100]++
			if status == http.StatusServiceUnavailable || status < 500 {
				assert.True(t, json.Valid(raw) || len(raw) == 0 || status == 404 || status == 400, "%s %s (%s): %d %.200s", r.Method, r.Path, r.Wrong, status, raw)
				continue
			}
			t.Errorf("%s %.200s, %s: %d %.300s\n%.600s", r.Method, r.Path, r.Wrong, status, raw, r.Body)
		}
	}
	assert.Greater(t, sent[2], 300, "%v: enough get through to be worth the name", sent)
	assert.Greater(t, sent[4], 300, "%v", sent)
	assert.Equal(t, unforeseen, problem.Unforeseen(), "limits agree from the door to the column")
	b.As["maud"].Yes("GET", "/api/pieces", nil, nil)
}

func send(t *testing.T, b *shoptest.Bench, r hostile.Request) (int, []byte) {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), r.Method, b.URL+r.Path, bytes.NewReader(r.Body))
	require.NoError(t, err)
	if r.Body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := b.As["maud"].Client.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, raw
}

// What is left of a body that was refused half read is never taken for the
// next request on the same line: the answer says that the line closes.
func TestTheRestOfARefusedBodyIsNoRequest(t *testing.T) {
	b := shoptest.New(t, nil)
	u, err := url.Parse(b.URL)
	require.NoError(t, err)
	cookie := b.As["maud"].Client.Jar.Cookies(u)[0].String()
	for path, kind := range map[string]string{"/api/lists/read": "application/json", "/api/lots": "text/plain"} {
		line, err := net.Dial("tcp", u.Host)
		require.NoError(t, err)
		defer line.Close()
		// Twice what an operation reads and what the server would still take up after it.
		const size = 3 << 20
		body := io.MultiReader(strings.NewReader(`{"text":"`), io.LimitReader(endless('A'), size-11), strings.NewReader(`"}`))
		go func() {
			fmt.Fprintf(line, "POST %s HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nContent-Type: %s\r\nContent-Length: %d\r\n\r\n", path,
				u.Host, cookie, kind, size)
			_, _ = io.Copy(line, body)
		}()
		answer, err := http.ReadResponse(bufio.NewReader(line), nil)
		require.NoError(t, err, path)
		assert.GreaterOrEqual(t, answer.StatusCode, 400, path)
		assert.True(t, answer.Close, "%s: %d, and the line is kept open", path, answer.StatusCode)
	}
}

// endless gives the same letter for ever.
type endless byte

func (e endless) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = byte(e)
	}
	return len(p), nil
}
