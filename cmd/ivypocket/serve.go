package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"golang.org/x/sync/errgroup"

	"ivypocket/access"
	"ivypocket/demo"
	"ivypocket/server"
	"ivypocket/store"
	"ivypocket/web"
)

// door is where the application is served, and who is let in.
type door struct {
	addr, cert, key string
	codes           bool
}

func (d *door) flags(f *pflag.FlagSet) {
	f.StringVar(&d.addr, "addr", "127.0.0.1:8420", "address to serve on; port 0 takes a free one. Elsewhere than on loopback people show access codes")
	f.BoolVar(&d.codes, "codes", false, "people show access codes on loopback, too: for a server of this machine that passes requests on")
	f.StringVar(&d.cert, "tls-cert", "", "file with the certificate to serve HTTPS with (PEM, with those between)")
	f.StringVar(&d.key, "tls-key", "", "file with its key (PEM)")
}

// open checks what is wished for and reports whether people show codes.
func (d *door) open(ctx context.Context, s *store.Store) error {
	host, _, err := net.SplitHostPort(d.addr)
	if err != nil {
		return fmt.Errorf("--addr: %w", err)
	}
	if (d.cert == "") != (d.key == "") {
		return errors.New("--tls-cert and --tls-key: give both, or none")
	}
	ip := net.ParseIP(host)
	outside := host != "localhost" && (ip == nil || !ip.IsLoopback())
	if d.codes = d.codes || outside; !d.codes {
		return nil
	}
	codes, err := s.Codes(ctx)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(codes, func(c store.Code) bool { return c.Withdrawn == "" && c.Role == access.Designer }) {
		return fmt.Errorf("people show access codes at %s, and there is no designer's yet; make one with: ivypocket --data %q codes make --role designer NAME", d.addr, s.Dir())
	}
	return nil
}

func serveCommand() *cobra.Command {
	var door door
	c := &cobra.Command{
		Use:   "serve",
		Short: "Serve the application",
		Long: `Serves the application until it is interrupted. What was in the render queue goes on
where it stopped. On loopback, which only this machine reaches, nobody logs in.
Elsewhere people show access codes, and codes and work are safe on the way only
with TLS.`,
		Example: `  ivypocket serve
  ivypocket codes make --role designer "Odalys Fenn"
  ivypocket serve --addr 0.0.0.0:8443 --tls-cert cert.pem --tls-key key.pem`,
		Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error {
			return locked(c, func(lock *store.Lock) error {
				s, err := openStore(c)
				if err != nil {
					return err
				}
				defer s.Close()
				return serve(c, s, lock, &door, nil)
			})
		},
	}
	door.flags(c.Flags())
	return c
}

func demoCommand() *cobra.Command {
	var door door
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
				return serve(c, s, lock, &door, func(ctx context.Context, srv *server.Server) error {
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
	door.flags(c.Flags())
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
func serve(c *cobra.Command, s *store.Store, lock *store.Lock, d *door, meanwhile func(context.Context, *server.Server) error) error {
	for _, h := range helpers {
		if _, err := exec.LookPath(h.name); err != nil {
			return fmt.Errorf("%s is missing; install it with: apt-get install %s", h.name, h.pack)
		}
	}
	if err := d.open(c.Context(), s); err != nil {
		return err
	}
	var secure *tls.Config
	if d.cert != "" {
		pair := newPair(d.cert, d.key)
		if _, err := pair.get(nil); err != nil {
			return err
		}
		secure = &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: pair.get, NextProtos: []string{"h2", "http/1.1"}}
	}
	l, err := listen(d.addr)
	if err != nil {
		return err
	}
	url := "http://" + reached(l.Addr().String())
	if secure != nil {
		l = tls.NewListener(l, secure)
		url = "https" + strings.TrimPrefix(url, "http")
	}
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
	if d.codes {
		srv.DemandCodes()
		if secure == nil {
			fmt.Fprintln(c.ErrOrStderr(), "Codes and work can be read on the way here: serve with --tls-cert and --tls-key, or let another server of this machine do so.")
		}
	}
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

// reached is an address as people type it: of one that stands for all of the machine's, by
// the machine's name.
func reached(addr string) string {
	host, port, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsUnspecified() {
		return addr
	}
	name, err := os.Hostname()
	if err != nil {
		return addr
	}
	return net.JoinHostPort(name, port)
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
			var b []byte
			err := described(func(srv *server.Server) (err error) {
				b, err = srv.OpenAPI()
				return err
			})
			if err != nil {
				return err
			}
			_, err = c.OutOrStdout().Write(append(b, '\n'))
			return err
		},
	}
}

// described makes a server of an empty folder for what it says of itself.
func described(of func(*server.Server) error) error {
	dir, err := os.MkdirTemp("", "ivypocket-described-")
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
	return of(srv)
}
