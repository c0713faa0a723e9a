// Command yewmoor is the whole product in one binary: the server, the demo,
// the database's upkeep and the calculations on the command line.
package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"github.com/alecthomas/kong"

	"yewmoor/internal/craft/calc"
	"yewmoor/internal/craft/plan"
	"yewmoor/internal/demo"
	"yewmoor/internal/device"
	"yewmoor/internal/journal"
	"yewmoor/internal/platform/accounts"
	"yewmoor/internal/platform/clock"
	"yewmoor/internal/platform/database"
	"yewmoor/internal/platform/mariadb"
	"yewmoor/internal/platform/web"
	"yewmoor/internal/shop"
	"yewmoor/ui"
)

type flags struct {
	Log string `help:"How much to log." enum:"debug,info,warn,error" default:"info" env:"YEWMOOR_LOG"`

	Demo    demoCmd    `cmd:"" help:"Run the demo scenario with a database of its own."`
	Serve   serveCmd   `cmd:"" help:"Serve a real installation."`
	Migrate migrateCmd `cmd:"" help:"Bring a database's schema up to date."`
	Backup  backupCmd  `cmd:"" help:"Write database and files into one archive, while the server runs."`
	Restore restoreCmd `cmd:"" help:"Put an archive into an empty database and an empty folder."`
	Person  personCmd  `cmd:"" help:"Make an account; the password is read from standard input."`
	Calc    calcCmd    `cmd:"" help:"Calculate cases from standard input, one JSON object a line."`
	Openapi openapiCmd `cmd:"" help:"Write the OpenAPI document to standard output."`
	Access  accessCmd  `cmd:"" help:"Write who may call what to standard output, as Markdown."`
}

type address struct {
	Addr      string `help:"Address to listen on." default:"127.0.0.1:8480" env:"YEWMOOR_ADDR"`
	PublicURL string `help:"Where people reach it; for links and QR codes." env:"YEWMOOR_PUBLIC_URL"`
}

func (a address) public() string {
	if a.PublicURL != "" {
		return a.PublicURL
	}
	return "http://" + a.Addr
}

func main() {
	var f flags
	k := kong.Parse(&f, kong.Name("yewmoor"), kong.Description("From the brief to the makeup artist's signature."), kong.UsageOnError())
	var level slog.Level
	k.FatalIfErrorf(level.UnmarshalText([]byte(f.Log)))
	slog.SetDefault(slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level})))
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	k.BindTo(ctx, (*context.Context)(nil))
	k.FatalIfErrorf(k.Run())
}

type demoCmd struct {
	address
	Dir string `help:"Folder for the demo's database and files." default:".run"`
}

// Run starts the database, loads the scenario once, and serves until Ctrl-C.
func (c demoCmd) Run(ctx context.Context) (err error) {
	server, err := mariadb.Start(ctx, filepath.Join(c.Dir, "mariadb"))
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, server.Stop()) }()
	dsn, err := server.Create(ctx, "yewmoor_demo")
	if err != nil {
		return err
	}
	db, err := database.Open(ctx, dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	if err := db.Migrate(ctx); err != nil {
		return err
	}
	config := shop.Config{PublicURL: c.public(), FilesDir: filepath.Join(c.Dir, "files"), Demo: true}
	sensor, scale := device.NewSimulatedRoom(3), device.NewSimulatedScale(7, time.Now)
	past := clock.NewFixed(demo.Start)
	teller, err := shop.New(ctx, config, db, past, scale, sensor)
	if err != nil {
		return err
	}
	if err := demo.Load(ctx, teller, past); err != nil {
		return err
	}
	start := demo.Start
	var kept time.Time
	if err := db.GetContext(ctx, &kept, `SELECT bench_at FROM bench_clock WHERE id = 1`); err == nil && kept.After(start) {
		start = kept
	}
	s, err := shop.New(ctx, config, db, clock.NewBench(start), scale, sensor)
	if err != nil {
		return err
	}
	return serve(ctx, s, c.Addr, func(at string) error { return server.Tell("at " + at) })
}

type serveCmd struct {
	address
	DSN     string   `help:"Address of the MariaDB database, as user:password@tcp(host:port)/name." env:"YEWMOOR_DSN" required:""`
	Files   string   `help:"Folder for pictures." default:"files" env:"YEWMOOR_FILES"`
	Secure  bool     `help:"People reach it by TLS only; set it when TLS stands in front." env:"YEWMOOR_SECURE"`
	Proxies []string `help:"Addresses of what stands in front, whose word on a caller's address is believed. This machine's own when none is named." env:"YEWMOOR_PROXIES"`
	Metrics string   `help:"Address of their own for figures, such as 127.0.0.1:9480; they answer at /metrics of the server when it is left out." env:"YEWMOOR_METRICS"`
}

// Run serves a real installation until it is told to stop.
func (c serveCmd) Run(ctx context.Context) error {
	db, err := opened(ctx, c.DSN)
	if err != nil {
		return err
	}
	defer db.Close()
	s, err := shop.New(ctx, shop.Config{PublicURL: c.public(), FilesDir: c.Files, Secure: c.Secure, Proxies: c.Proxies, Metrics: c.Metrics}, db, clock.System{},
		device.NoScale{}, device.NoRoom{})
	if err != nil {
		return err
	}
	return serve(ctx, s, c.Addr, func(string) error { return nil })
}

func opened(ctx context.Context, dsn string) (*database.DB, error) {
	db, err := database.Open(ctx, dsn)
	if err != nil {
		return nil, err
	}
	if err := db.Migrate(ctx); err != nil {
		return nil, errors.Join(err, db.Close())
	}
	return db, nil
}

// serve listens until ctx ends, then lets running requests finish. Ready is told
// where.
func serve(ctx context.Context, s *shop.Shop, addr string, ready func(at string) error) error {
	if err := s.Files.UseTemp(); err != nil {
		return err
	}
	bounded()
	handler, _, err := s.Handler(ui.Dist())
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("listening on %s: %w", addr, err)
	}
	at := "http://" + listener.Addr().String()
	if err := ready(at); err != nil {
		return errors.Join(err, listener.Close())
	}
	running, stop := context.WithCancel(ctx)
	defer stop()
	kept := make(chan struct{})
	go func() { s.Run(running); close(kept) }()
	// Streams end with the base context, so that a stop does not wait for them.
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, BaseContext: func(net.Listener) context.Context { return running }}
	failed := make(chan error, 2)
	go func() { failed <- server.Serve(listener) }()
	if engine, ok := handler.(*web.Engine); ok && s.Config.Metrics != "" {
		mux := http.NewServeMux()
		mux.Handle("GET /metrics", engine.Metrics)
		figures := &http.Server{Addr: s.Config.Metrics, Handler: mux, ReadHeaderTimeout: 10 * time.Second}
		defer figures.Close()
		go func() { failed <- fmt.Errorf("answering with figures: %w", figures.ListenAndServe()) }()
	}
	fmt.Printf("Yewmoor is ready at %s\n", at)
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	stop()
	<-kept
	last, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	return errors.Join(server.Shutdown(last), s.KeepClock(last))
}

type migrateCmd struct {
	DSN string `env:"YEWMOOR_DSN" required:""`
}

// Run brings the schema forward and ends.
func (c migrateCmd) Run(ctx context.Context) error {
	db, err := opened(ctx, c.DSN)
	if err != nil {
		return err
	}
	return db.Close()
}

type personCmd struct {
	DSN   string        `env:"YEWMOOR_DSN" required:""`
	Login string        `arg:"" help:"Sign-in name."`
	Name  string        `arg:"" help:"The person's name."`
	Role  accounts.Role `enum:"lead,fabricator,apprentice" default:"lead"`
}

// Run makes an account, the first lead of a new installation among them.
func (c personCmd) Run(ctx context.Context) error {
	db, err := opened(ctx, c.DSN)
	if err != nil {
		return err
	}
	defer db.Close()
	fmt.Fprint(os.Stderr, "Password, at least 12 characters: ")
	line, err := bufio.NewReader(os.Stdin).ReadString('\n')
	if err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	password := strings.TrimRight(line, "\r\n")
	if password == "" {
		return errors.New("no password was given; nobody was added")
	}
	people := accounts.NewService(db, false)
	people.Note = func(ctx context.Context, tx database.Tx, login, act string) error {
		_, err := journal.Add(ctx, tx, journal.Entry{At: time.Now().UTC(), Actor: "the command line", Kind: "account", Code: login, Act: act})
		return err
	}
	p, err := people.AddOrReopen(ctx, c.Login, c.Name, c.Role, password)
	if err != nil {
		return err
	}
	fmt.Printf("%s may now sign in as %s, %s.\n", p.Name, p.Login, p.Role)
	return nil
}

type calcCmd struct {
	Name       string `arg:"" help:"colour, drying-and-cure, finish, mix, planning, scan-and-mould or texture."`
	Files      string `help:"Folder for file arguments." type:"path"`
	Seed       uint64 `help:"Of planning: the seed of the search." default:"1"`
	BudgetMS   int    `name:"budget-ms" help:"Of planning: how long is searched, ms." default:"2000"`
	Iterations int    `help:"Of planning: how many plans are tried; 0 goes by time."`
}

// Run answers every line with one line; a planner's instance is a document of its own, over any number of lines.
func (c calcCmd) Run() error {
	if c.Name == "planning" {
		raw, err := io.ReadAll(io.LimitReader(os.Stdin, 64<<20))
		if err != nil {
			return err
		}
		if calc.IsInstance(raw) {
			return json.NewEncoder(os.Stdout).Encode(c.plan(raw))
		}
		return c.lines(bytes.NewReader(raw))
	}
	return c.lines(os.Stdin)
}

// plan searches for as long as it was asked to; a plan by iterations says no seconds, and is the same everywhere.
func (c calcCmd) plan(raw []byte) any {
	ctx := context.Background()
	if c.Iterations > 0 {
		return calc.Plan(ctx, raw, c.Seed, c.Iterations)
	}
	ctx, cancel := context.WithTimeout(ctx, time.Duration(c.BudgetMS)*time.Millisecond)
	defer cancel()
	began := time.Now()
	out := calc.Plan(ctx, raw, c.Seed, 0)
	if p, ok := out.(*plan.Plan); ok {
		took := time.Since(began).Seconds()
		p.Seconds = &took
	}
	return out
}

func (c calcCmd) lines(from io.Reader) error {
	var files calc.Files
	if c.Files != "" {
		root, err := os.OpenRoot(c.Files)
		if err != nil {
			return err
		}
		defer root.Close()
		files = root.ReadFile
	}
	in := bufio.NewScanner(from)
	in.Buffer(nil, 16<<20)
	out := json.NewEncoder(os.Stdout)
	for in.Scan() {
		if strings.TrimSpace(in.Text()) == "" {
			continue
		}
		if err := out.Encode(calc.Answer(context.Background(), files, c.Name, json.RawMessage(in.Bytes()))); err != nil {
			return err
		}
	}
	return in.Err()
}

type openapiCmd struct{}

// Run writes the document; it needs no database.
func (openapiCmd) Run() error {
	doc, err := shop.Document()
	if err == nil {
		_, err = os.Stdout.Write(doc)
	}
	return err
}

type accessCmd struct{}

// Run writes the table; it needs no database.
func (accessCmd) Run() error {
	table, err := shop.AccessTable()
	if err == nil {
		_, err = os.Stdout.Write(table)
	}
	return err
}
