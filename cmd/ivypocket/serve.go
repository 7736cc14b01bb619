package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"runtime/debug"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"ivypocket/demo"
	"ivypocket/server"
	"ivypocket/store"
	"ivypocket/web"
)

func serveCommand() *cobra.Command {
	var addr string
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application",
		Long: `Serves the application on this machine until it is interrupted. What was in the
render queue goes on where it stopped.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return locked(c, func(lock *store.Lock) error {
				s, err := openStore(c)
				if err != nil {
					return err
				}
				defer s.Close()
				return serve(c, s, lock, addr, nil)
			})
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8420", "loopback address to serve on; port 0 takes a free one")
	return c
}

func demoCommand() *cobra.Command {
	var addr string
	var seedOnly bool
	c := &cobra.Command{
		Use:   "demo",
		Short: "Draw the demo, seed it and serve the application",
		Long: `Serves the application and meanwhile draws the pictures, clips and marks of a made-up
kite festival and puts its templates on the shelf, each as soon as its media is drawn.
Doing it again is quick and keeps what you made.`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			work := func(lock *store.Lock) error {
				s, err := openStore(c)
				if err != nil {
					return err
				}
				defer s.Close()
				say := func(line string) { fmt.Fprintln(c.OutOrStdout(), line) }
				there := func() { say("Media to drop on pockets is in " + demo.Files(s.Dir())) }
				if lock == nil {
					err := demo.Seed(c.Context(), s, say)
					if err == nil {
						there()
					}
					return err
				}
				// It is drawn while the application answers.
				return serve(c, s, lock, addr, func(ctx context.Context, srv *server.Server) error {
					err := demo.SeedSlowly(ctx, s, func(line string) {
						say(line)
						srv.Preparing(line)
					}, srv.TookIn, srv.Shelved)
					srv.Preparing("")
					if err == nil {
						there()
					}
					return err
				})
			}
			if seedOnly {
				return work(nil)
			}
			return locked(c, work)
		},
	}
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8420", "loopback address to serve on; port 0 takes a free one")
	c.Flags().BoolVar(&seedOnly, "seed-only", false, "seed and do not serve")
	return c
}

// locked does something with a folder that nobody else serves meanwhile.
func locked(c *cobra.Command, work func(*store.Lock) error) error {
	dir, err := dataFolder(c)
	if err != nil {
		return err
	}
	lock, err := store.LockFolder(dir)
	if err != nil {
		return err
	}
	return errors.Join(work(lock), lock.Unlock())
}

// helpers are the programs that media and renders need.
var helpers = []struct{ name, pack string }{
	{"ffmpeg", "ffmpeg"}, {"ffprobe", "ffmpeg"}, {"rsvg-convert", "librsvg2-bin"},
	{"dwebp", "webp"}, {"avifdec", "libavif-bin"}, {"prlimit", "util-linux"}, {"chrt", "util-linux"},
}

// serve serves a store until it is interrupted; meanwhile does something beside it,
// and its error ends the serving.
func serve(c *cobra.Command, s *store.Store, lock *store.Lock, addr string, meanwhile func(context.Context, *server.Server) error) error {
	for _, h := range helpers {
		if _, err := exec.LookPath(h.name); err != nil {
			return fmt.Errorf("%s is missing; install it with: apt-get install %s", h.name, h.pack)
		}
	}
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return fmt.Errorf("--addr: %w", err)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return fmt.Errorf("--addr: %s is not a loopback address; this version serves this machine alone", host)
	}
	l, err := listen(addr)
	if err != nil {
		return err
	}
	url := fmt.Sprintf("http://%s", l.Addr())
	if err := lock.Tell(url); err != nil {
		return err
	}
	if err := errors.Join(s.Check(c.Context()), s.Tidy()); err != nil {
		return err
	}
	for _, tr := range s.Troubles() {
		fmt.Fprintf(c.ErrOrStderr(), "%s: %s %s\n", tr.What, tr.Why, tr.Do)
	}
	debug.SetMemoryLimit(server.MemoryLimit)
	srv, err := server.New(s, web.Files(), slog.New(slog.NewTextHandler(os.Stderr, nil)))
	if err != nil {
		return err
	}
	defer srv.Close()
	fmt.Fprintf(c.OutOrStdout(), "Ivy Pocket is at %s\n", url)
	g, ctx := errgroup.WithContext(c.Context())
	g.Go(func() error { return srv.Serve(ctx, l) })
	if meanwhile != nil {
		g.Go(func() error {
			if err := meanwhile(ctx, srv); err != nil && ctx.Err() == nil {
				return err
			}
			return nil // what was broken off fails in ways of its own
		})
	}
	return g.Wait()
}

// listen waits a moment for an address that a program just stopped still holds.
func listen(addr string) (net.Listener, error) {
	for try := 0; ; try++ {
		l, err := net.Listen("tcp", addr)
		if err == nil || try == 5 {
			if err != nil {
				err = errors.Join(err, errors.New("another program serves there; choose another with --addr 127.0.0.1:0"))
			}
			return l, err
		}
		time.Sleep(200 * time.Millisecond)
	}
}

func openapiCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "openapi",
		Short:  "Print the description of the HTTP API (OpenAPI 3.1)",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			dir, err := os.MkdirTemp("", "ivypocket-openapi-")
			if err != nil {
				return err
			}
			defer os.RemoveAll(dir)
			s, err := store.Open(dir)
			if err != nil {
				return err
			}
			defer s.Close()
			srv, err := server.New(s, web.Files(), slog.Default())
			if err != nil {
				return err
			}
			defer srv.Close()
			b, err := srv.OpenAPI()
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(append(b, '\n'))
			return err
		},
	}
}
