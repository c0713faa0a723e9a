// Package mariadb runs a MariaDB server of the project's own: its own data
// folder, its own port on loopback, no service manager, nobody's system
// database touched. The demo and the tests use it; a real installation brings
// its own server and only a DSN.
package mariadb

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
)

// Throwaway are options that trade durability for speed: for tests, never for
// data.
var Throwaway = []string{"--innodb-flush-log-at-trx-commit=0", "--sync-binlog=0", "--innodb-buffer-pool-size=64M", "--skip-log-bin"}

// Server is a running MariaDB.
type Server struct {
	dir, password string
	port          int
	cmd           *exec.Cmd // nil when a server left over from a crash was taken over
	exited        chan struct{}
	hold          *os.File
}

// Held is the error of a folder that a living program already runs.
type Held struct {
	// Note is what that program said of itself, such as where it is reached;
	// empty while it is still starting.
	Note string
}

// Error says so.
func (h *Held) Error() string {
	if h.Note == "" {
		return "another Yewmoor is just starting from the same folder"
	}
	return "a Yewmoor already runs from the same folder, " + h.Note
}

// Start runs a server on the data folder dir, creating it when it is new. A
// server that a killed program left behind on the same folder is taken over;
// where the program still lives, the error is a *Held and nothing is touched.
// Options are handed to mariadbd as they are.
func Start(ctx context.Context, dir string, options ...string) (_ *Server, err error) {
	for _, tool := range []string{"mariadbd", "mariadb-install-db"} {
		if _, err := exec.LookPath(tool); err != nil {
			return nil, fmt.Errorf("%s is not installed: run `make setup`", tool)
		}
	}
	if dir, err = filepath.Abs(dir); err != nil {
		return nil, err
	}
	s := &Server{dir: dir}
	if err := s.take(); err != nil {
		return nil, err
	}
	defer func() {
		if err != nil {
			s.release()
		}
	}()
	if err := s.install(ctx); err != nil {
		return nil, err
	}
	if admin, err := s.admin(ctx); err == nil {
		defer admin.Close()
		if err := admin.GetContext(ctx, &s.port, "SELECT @@port"); err != nil {
			return nil, err
		}
		return s, s.grant(ctx, admin)
	}
	if s.port, err = freePort(); err != nil {
		return nil, err
	}
	if err := s.launch(options); err != nil {
		return nil, err
	}
	deadline := time.Now().Add(60 * time.Second)
	for {
		admin, err := s.admin(ctx)
		if err == nil {
			defer admin.Close()
			return s, s.grant(ctx, admin)
		}
		select {
		case <-s.exited:
			return nil, fmt.Errorf("MariaDB stopped while starting; see %s", s.logFile())
		case <-ctx.Done():
			s.kill()
			return nil, ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
		if time.Now().After(deadline) {
			s.kill()
			return nil, fmt.Errorf("MariaDB did not answer within a minute: %w; see %s", err, s.logFile())
		}
	}
}

// take holds the folder for this program: a lock that ends with the program,
// however it ends.
func (s *Server) take() error {
	if err := os.MkdirAll(s.dir, 0o700); err != nil {
		return fmt.Errorf("making the folder: %w", err)
	}
	f, err := os.OpenFile(filepath.Join(s.dir, "held"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	err = syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB)
	if errors.Is(err, syscall.EWOULDBLOCK) {
		note, _ := io.ReadAll(f)
		return errors.Join(f.Close(), &Held{Note: string(note)})
	}
	if err != nil {
		return errors.Join(fmt.Errorf("holding the folder: %w", err), f.Close())
	}
	s.hold = f
	return f.Truncate(0)
}

// release gives the folder back.
func (s *Server) release() {
	if s.hold != nil {
		_ = s.hold.Close()
		s.hold = nil
	}
}

// Tell leaves word for whoever starts from the same folder meanwhile, such as
// where this program is reached.
func (s *Server) Tell(note string) error {
	_, err := s.hold.WriteAt([]byte(note), 0)
	return err
}

func (s *Server) data() string    { return filepath.Join(s.dir, "data") }
func (s *Server) logFile() string { return filepath.Join(s.dir, "mariadb.log") }

// socket lives in a short path of its own: a Unix socket's name may have only
// about a hundred characters.
func (s *Server) socket() string {
	name := filepath.Join(s.dir, "db.sock")
	if len(name) < 100 {
		return name
	}
	return filepath.Join(os.TempDir(), fmt.Sprintf("yewmoor-%x.sock", []byte(s.dir)[max(0, len(s.dir)-12):]))
}

func (s *Server) install(ctx context.Context) error {
	if _, err := os.Stat(filepath.Join(s.data(), "mysql")); err == nil {
		return nil
	}
	if err := os.MkdirAll(s.data(), 0o700); err != nil {
		return fmt.Errorf("making the data folder: %w", err)
	}
	me, err := user.Current()
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, "mariadb-install-db", "--no-defaults", "--datadir="+s.data(),
		"--auth-root-authentication-method=socket", "--skip-test-db", "--user="+me.Username)
	if cmd.Env, err = s.ownTemp(); err != nil {
		return err
	}
	out, err := cmd.CombinedOutput()
	if err != nil {
		return fmt.Errorf("setting up MariaDB: %w\n%s", err, out)
	}
	return nil
}

// ownTemp is the environment with a folder for temporary tables that only this
// server uses: each one that starts clears away what it finds there, also what
// a neighbour is just writing.
func (s *Server) ownTemp() ([]string, error) {
	temp := filepath.Join(s.dir, "tmp")
	if err := os.MkdirAll(temp, 0o700); err != nil {
		return nil, fmt.Errorf("making the temporary folder: %w", err)
	}
	return append(os.Environ(), "TMPDIR="+temp), nil
}

func (s *Server) launch(options []string) error {
	me, err := user.Current()
	if err != nil {
		return err
	}
	args := []string{"--no-defaults", "--user=" + me.Username, "--datadir=" + s.data(), "--socket=" + s.socket(),
		"--pid-file=" + filepath.Join(s.dir, "mariadb.pid"), "--bind-address=127.0.0.1", "--port=" + strconv.Itoa(s.port),
		"--character-set-server=utf8mb4", "--skip-name-resolve", "--max-connections=200"}
	args = append(args, options...)
	log, err := os.OpenFile(s.logFile(), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer log.Close()
	s.cmd = exec.Command("mariadbd", args...)
	s.cmd.Stdout, s.cmd.Stderr = log, log
	if s.cmd.Env, err = s.ownTemp(); err != nil {
		return err
	}
	// A group of its own: Ctrl-C in the terminal must reach Yewmoor first,
	// which then stops the database in order.
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if err := s.cmd.Start(); err != nil {
		return fmt.Errorf("starting mariadbd: %w", err)
	}
	s.exited = make(chan struct{})
	go func() { _ = s.cmd.Wait(); close(s.exited) }()
	return nil
}

// admin connects through the socket as the user who runs the server.
func (s *Server) admin(ctx context.Context) (*sqlx.DB, error) {
	me, err := user.Current()
	if err != nil {
		return nil, err
	}
	if _, err := os.Stat(s.socket()); err != nil {
		return nil, err
	}
	return sqlx.ConnectContext(ctx, "mysql", fmt.Sprintf("%s@unix(%s)/", me.Username, s.socket()))
}

// grant makes the account of this start; its password lives only in memory.
func (s *Server) grant(ctx context.Context, admin *sqlx.DB) error {
	secret := make([]byte, 16)
	if _, err := rand.Read(secret); err != nil {
		return err
	}
	s.password = hex.EncodeToString(secret)
	for _, q := range []string{
		"CREATE USER IF NOT EXISTS 'yewmoor'@'127.0.0.1'",
		"ALTER USER 'yewmoor'@'127.0.0.1' IDENTIFIED BY '" + s.password + "'",
		"GRANT ALL ON `yewmoor%`.* TO 'yewmoor'@'127.0.0.1'",
	} {
		if _, err := admin.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("preparing the database account: %w", err)
		}
	}
	return nil
}

// Create makes the named schema if it is missing and returns its DSN. Names
// begin with yewmoor.
func (s *Server) Create(ctx context.Context, name string) (dsn string, err error) {
	if !strings.HasPrefix(name, "yewmoor") || strings.ContainsAny(name, "`'\"") {
		return "", fmt.Errorf("%q is not a schema name of ours", name)
	}
	c := mysql.NewConfig()
	c.User, c.Passwd, c.Net, c.Addr = "yewmoor", s.password, "tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(s.port))
	db, err := sqlx.ConnectContext(ctx, "mysql", c.FormatDSN())
	if err != nil {
		return "", err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS `"+name+"` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"); err != nil {
		return "", err
	}
	c.DBName = name
	return c.FormatDSN(), nil
}

// Stop shuts the server down in order, waits for it and gives the folder back.
func (s *Server) Stop() error {
	defer s.release()
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	admin, err := s.admin(ctx)
	if err == nil {
		_, err = admin.ExecContext(ctx, "SHUTDOWN")
		_ = admin.Close()
	}
	if err != nil && s.cmd == nil {
		return nil // the one that was taken over is gone already
	}
	if err != nil {
		_ = s.cmd.Process.Signal(syscall.SIGTERM)
	}
	for {
		if s.exited != nil {
			select {
			case <-s.exited:
				return nil
			case <-ctx.Done():
				s.kill()
				return errors.New("MariaDB did not stop in time and was ended")
			}
		}
		if _, err := os.Stat(s.socket()); err != nil {
			return nil
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		time.Sleep(50 * time.Millisecond)
	}
}

func (s *Server) kill() {
	if s.cmd != nil {
		_ = s.cmd.Process.Kill()
	}
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}
