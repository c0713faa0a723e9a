package problem

import (
	"database/sql/driver"
	"errors"
	"io"
	"log/slog"
	"net"
	"net/http"
	"regexp"
	"sync/atomic"
	"syscall"

	"github.com/go-sql-driver/mysql"
)

// ErrUnsure marks a failure at the last moment of an act: the line broke while
// the database was keeping it, so it may be kept or not.
var ErrUnsure = errors.New("not known whether it was kept")

// trouble names what is wrong with the machine rather than with the request;
// nil when it is neither of the known troubles. Error numbers are MariaDB's.
func trouble(err error) *Problem {
	var sql *mysql.MySQLError
	var line *net.OpError
	switch {
	case errors.Is(err, ErrUnsure):
		slog.Error("an act ended unsure", "error", err)
		return New(http.StatusServiceUnavailable, "unsure", "", "The line to the database broke at the last moment. Look whether this was recorded before you do it again.")
	case errors.Is(err, syscall.ENOSPC),
		errors.As(err, &sql) && (sql.Number == 1021 || sql.Number == 1114 || sql.Number == 3 || sql.Number == 1026 || sql.Number == 1030):
		slog.Error("no room left", "error", err)
		return New(http.StatusInsufficientStorage, "full", "", "The disk is full. Nothing of this was recorded, and what was recorded before is kept. Make room, then do it again.")
	case errors.Is(err, driver.ErrBadConn), errors.Is(err, mysql.ErrInvalidConn), errors.Is(err, io.ErrUnexpectedEOF), errors.As(err, &line),
		errors.As(err, &sql) && (sql.Number == 1053 || sql.Number == 1040 || sql.Number == 1927 || sql.Number == 1129 || sql.Number == 2006 || sql.Number == 2013):
		slog.Warn("the database is away", "error", err)
		return Away()
	case errors.As(err, &sql):
		return unfit(sql)
	}
	return nil
}

var column = regexp.MustCompile(`column [\x60']?(?:\w+[\x60']?\.[\x60']?)*(\w+)`)

var unforeseen atomic.Int64

// Unforeseen is how often the database refused what no limit at the door did:
// a limit that does not agree with its column.
func Unforeseen() int64 { return unforeseen.Load() }

// unfit is a value that the database does not take: columns are named as their
// fields are. It is a fault of ours that no limit at the door said so; whoever
// typed it gets it at the field all the same.
func unfit(sql *mysql.MySQLError) *Problem {
	field := ""
	if m := column.FindStringSubmatch(sql.Message); m != nil {
		field = m[1]
	}
	var p *Problem
	switch sql.Number {
	case 1406:
		p = Invalid("too_long", field, "This is too long to be kept. Shorten it; nothing was recorded.")
	case 1264, 1690, 1365:
		p = Invalid("out_of_range", field, "This number is out of all bounds. Nothing was recorded.")
	case 1366, 1292, 1265, 3819, 4025:
		p = Invalid("invalid", field, "This cannot be kept as it is. Nothing was recorded.")
	case 1452:
		p = Invalid("unknown_value", "", "It speaks of something that is not there. Nothing was recorded.")
	case 1062:
		p = Conflict("taken", "This is there already. Nothing was recorded.")
	default:
		return nil
	}
	unforeseen.Add(1)
	slog.Warn("the database refused a value that no limit at the door refused", "error", sql)
	return p
}

// Kept says that the act itself was recorded, though what follows it failed.
func Kept() *Problem {
	return New(http.StatusServiceUnavailable, "kept", "", "This was recorded. Only the screen could not be read again just now: do not do it a second time.")
}

// Away says that the database cannot be reached.
func Away() *Problem {
	return New(http.StatusServiceUnavailable, "away", "", "The database cannot be reached just now. Nothing of this was recorded, and what was recorded before is kept. Try again in a moment.")
}
