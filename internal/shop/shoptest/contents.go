package shoptest

import (
	"fmt"

	"github.com/stretchr/testify/require"
)

type m = map[string]any

// Contents is every table with its rows counted and summed, but for sign-ins.
func (b *Bench) Contents() map[string]string {
	b.T.Helper()
	var tables []string
	require.NoError(b.T, b.S.DB.Select(&tables, `SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name NOT IN ('sessions','sign_in','sign_in_failure','room_reading')`))
	all := map[string]string{}
	for _, name := range tables {
		var row struct {
			Table    string `db:"Table"`
			Checksum uint64 `db:"Checksum"`
		}
		require.NoError(b.T, b.S.DB.Get(&row, "CHECKSUM TABLE `"+name+"`"))
		all[name] = fmt.Sprint(row.Checksum)
	}
	return all
}

// With is a body with one thing changed.
func With(body m, key string, value any) m {
	out := m{}
	for k, v := range body {
		out[k] = v
	}
	if value == nil {
		delete(out, key)
	} else {
		out[key] = value
	}
	return out
}
