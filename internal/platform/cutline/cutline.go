// Package cutline is a TCP line to a server that a test can cut and mend: how a
// database or the shop's server looks when it is gone for a while.
package cutline

import (
	"io"
	"net"
	"sync"
)

// Line passes connections on until it is cut.
type Line struct {
	mu       sync.Mutex
	to       string
	listener net.Listener
	open     []net.Conn
	cut      bool
}

// To opens a line to an address.
func To(addr string) (*Line, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	l := &Line{to: addr, listener: listener}
	go l.serve()
	return l, nil
}

// Addr is where to connect to instead.
func (l *Line) Addr() string { return l.listener.Addr().String() }

func (l *Line) serve() {
	for {
		in, err := l.listener.Accept()
		if err != nil {
			return
		}
		l.mu.Lock()
		out, err := net.Dial("tcp", l.to)
		if l.cut || err != nil {
			_ = in.Close()
			if err == nil {
				_ = out.Close()
			}
			l.mu.Unlock()
			continue
		}
		l.open = append(l.open, in, out)
		l.mu.Unlock()
		for _, way := range [][2]net.Conn{{in, out}, {out, in}} {
			go func() {
				_, _ = io.Copy(way[0], way[1])
				_ = way[0].Close()
				_ = way[1].Close()
			}()
		}
	}
}

// Cut breaks what is open and refuses the rest.
func (l *Line) Cut() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.cut = true
	for _, c := range l.open {
		_ = c.Close()
	}
	l.open = nil
}

// Mend lets new connections through.
func (l *Line) Mend() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.cut = false
}

// Close ends the line for good.
func (l *Line) Close() {
	l.Cut()
	_ = l.listener.Close()
}
