package shoptest

import (
	"testing"
	"yewmoor/internal/platform/cutline"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

// Through puts a line in front of the database of dsn.
func Through(t *testing.T, dsn string) (string, *cutline.Line) {
	c, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	l, err := cutline.To(c.Addr)
	require.NoError(t, err)
	t.Cleanup(l.Close)
	c.Addr = l.Addr()
	return c.FormatDSN(), l
}
