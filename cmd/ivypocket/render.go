package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"ivypocket/core/edit"
	"ivypocket/core/sheet"
	"ivypocket/core/template"
	"ivypocket/deliver"
	"ivypocket/media"
	"ivypocket/media/helper"
	"ivypocket/store"
)

func renderCommand() *cobra.Command {
	var wish wish
	var frames, out string
	frame, alpha := int64(-1), false
	c := &cobra.Command{
		Use:   "render [TEMPLATE]",
		Short: "Make a picture or a film from a template",
		Long: `Renders a template to a PNG picture, an MP4 film (H.264) or a WebM film (VP9,
with --alpha transparent where nothing is drawn). Films are of BT.709 and have
no sound.

TEMPLATE is a document (a .json file) or the id of a template on the shelf. With
--piece a piece is rendered with its own release and values instead.

Media is looked up by hash in the data folder; --media takes in a folder of
files first.`,
		Example: `  ivypocket render four-winds --frame 120 -o still.png
  ivypocket render four-winds --format vertical --frames 0-120 -o half.mp4
  ivypocket render split.json --values values.json --media ./media --size 960x540 -o film.mp4`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			in, err := wish.open(c, args)
			if err != nil {
				return err
			}
			defer in.store.Close()
			// Nearly all memory is pixels, in few large pieces: collecting often costs
			// little, and what is held stays near to what is needed.
			debug.SetGCPercent(15)
			ctx := c.Context()
			job := deliver.Job{Name: in.doc.Name, Doc: in.doc, Values: in.values, Format: in.format, Width: in.width, Height: in.height}
			switch {
			case strings.HasSuffix(out, ".png"):
				job.Kind, job.From = deliver.PNG, job.Poster()
				if frame >= 0 {
					job.From = frame
				}
			case strings.HasSuffix(out, ".mp4"), strings.HasSuffix(out, ".webm"):
				job.Kind, job.Alpha = deliver.Kind(filepath.Ext(out)[1:]), alpha
				if frame >= 0 {
					job.From, job.To = frame, frame+1
				}
				if frames != "" {
					a, b, err := parsePair(frames, "-")
					if err != nil {
						return fmt.Errorf("--frames: %w", err)
					}
					job.From, job.To = int64(a), int64(b)
				}
			default:
				return errors.New("-o: the file's name must end in .png, .mp4 or .webm")
			}
			if err := job.Validate(); err != nil {
				return err
			}
			lib := media.NewLibrary(in.store)
			defer lib.Close()
			src := lib.Originals(ctx, helper.Foreground)
			defer src.Close()
			path, err := filepath.Abs(out)
			if err != nil {
				return err
			}
			begun, last := time.Now(), time.Time{}
			err = deliver.Render(ctx, job, src, path, deliver.Hooks{Progress: func(done int64) {
				if time.Since(last) > time.Second || done == job.Frames() {
					last = time.Now()
					fmt.Fprintf(c.ErrOrStderr(), "\r%d of %d frames", done, job.Frames())
				}
			}})
			fmt.Fprintln(c.ErrOrStderr())
			if err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s, %d × %d px, %d frames, in %.1f s\n", out, job.Width, job.Height, job.Frames(), time.Since(begun).Seconds())
			if cut, err := deliver.ReadCut(path); err != nil {
				return err
			} else if cut != nil {
				fmt.Fprintf(c.OutOrStdout(), "cut beneath it at frame %d, %s, %d ms\n", cut.Frame, cut.Timecode, cut.Milliseconds)
			}
			return nil
		},
	}
	f := c.Flags()
	wish.flags(f)
	f.Int64Var(&frame, "frame", -1, "one frame, counted from 0 (default for PNG: the poster)")
	f.StringVar(&frames, "frames", "", "range of frames for a film, such as 0-120, the last not included")
	f.StringVarP(&out, "out", "o", "", "file to write, .png, .mp4 or .webm")
	f.BoolVar(&alpha, "alpha", false, "keep what is clear (WebM)")
	_ = c.MarkFlagRequired("out")
	return c
}

// wish is what a command is to draw, as its flags say.
type wish struct{ values, piece, format, size, media string }

func (w *wish) flags(f *pflag.FlagSet) {
	f.StringVar(&w.values, "values", "", "file of an editor's values (JSON: fills and entries)")
	f.StringVar(&w.piece, "piece", "", "id of a piece, with its own release and values")
	f.StringVar(&w.format, "format", "", "id of the format (default: the first)")
	f.StringVar(&w.size, "size", "", "size in pixels, such as 960x540 (default: the format's)")
	f.StringVar(&w.media, "media", "", "folder of media to take in first")
}

// drawing is a wish with all that it names.
type drawing struct {
	store         *store.Store
	doc           *template.Document
	values        sheet.Values
	format        string
	width, height int // 0 is the format's
}

// open finds what is wished for; the store is the caller's to close.
func (w *wish) open(c *cobra.Command, args []string) (d drawing, err error) {
	if d.store, err = openStore(c); err != nil {
		return d, err
	}
	defer func() {
		if err != nil {
			d.store.Close()
		}
	}()
	if w.media != "" {
		if err = takeIn(c, d.store, w.media); err != nil {
			return d, err
		}
	}
	if d.doc, d.values, err = source(c, d.store, args, w.piece, w.values); err != nil {
		return d, err
	}
	if d.format = w.format; d.format == "" {
		d.format = d.doc.Formats[0].ID
	}
	if w.size != "" {
		if d.width, d.height, err = parsePair(w.size, "x"); err == nil && (d.width < 1 || d.height < 1) {
			err = fmt.Errorf("%d × %d px is no size", d.width, d.height)
		}
		if err != nil {
			return d, fmt.Errorf("--size: %w", err)
		}
	}
	return d, nil
}

// source finds what is to be drawn.
func source(c *cobra.Command, s *store.Store, args []string, piece, values string) (*template.Document, sheet.Values, error) {
	ctx := c.Context()
	var v sheet.Values
	if piece != "" {
		if len(args) > 0 || values != "" {
			return nil, v, errors.New("--piece goes without a template and without --values")
		}
		p, err := s.Piece(ctx, piece)
		if err != nil {
			return nil, v, fmt.Errorf("piece %s: %w", piece, err)
		}
		var e edit.Piece
		if e, err = p.Parsed(); err != nil {
			return nil, v, err
		}
		d, err := s.Document(ctx, p.Template, p.Number)
		return d, e.Values, err
	}
	if len(args) == 0 {
		return nil, v, errors.New("name a template document or a template on the shelf, or use --piece")
	}
	if values != "" {
		b, err := os.ReadFile(values)
		if err == nil {
			err = template.Decode(b, &v)
		}
		if err != nil {
			return nil, v, fmt.Errorf("--values: %w", err)
		}
	}
	if strings.HasSuffix(args[0], ".json") {
		b, err := os.ReadFile(args[0])
		if err != nil {
			return nil, v, err
		}
		d, err := template.Parse(b)
		return d, v, err
	}
	list, err := s.Templates(ctx)
	if err != nil {
		return nil, v, err
	}
	for _, t := range list {
		if t.ID == args[0] {
			d, err := s.Document(ctx, t.ID, t.Number)
			return d, v, err
		}
	}
	return nil, v, fmt.Errorf("there is no template %q on the shelf in %s", args[0], s.Dir())
}

// takeIn puts every file of a folder into the store; what is refused is said.
func takeIn(c *cobra.Command, s *store.Store, dir string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return fmt.Errorf("--media: %w", err)
	}
	for _, e := range entries {
		if e.IsDir() {
			continue
		}
		f, err := os.Open(filepath.Join(dir, e.Name()))
		if err != nil {
			return err
		}
		_, err = s.Put(c.Context(), e.Name(), f)
		f.Close()
		var refused *media.RefusedError
		if errors.As(err, &refused) {
			fmt.Fprintf(c.ErrOrStderr(), "%s was left out: %s\n", e.Name(), refused.Reason)
		} else if err != nil {
			return err
		}
	}
	return nil
}

func parsePair(s, sep string) (a, b int, err error) {
	x, y, ok := strings.Cut(s, sep)
	if ok {
		if a, err = strconv.Atoi(x); err == nil {
			b, err = strconv.Atoi(y)
		}
	}
	if !ok || err != nil {
		return 0, 0, fmt.Errorf("%q is not two whole numbers with %q between them", s, sep)
	}
	return a, b, nil
}

func checkCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "check FILE...",
		Short: "Say what is wrong with template documents",
		Long: `Validates template documents and prints every fault with its place, and of
those that can be drawn what is set in them and never seen. The exit status is 0
when there is nothing of either.`,
		Example: `  ivypocket check docs/examples/split.json`,
		Args:    cobra.MinimumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			bad := 0
			for _, name := range args {
				b, err := os.ReadFile(name)
				var d *template.Document
				if err == nil {
					d, err = template.Parse(b)
				}
				if err != nil {
					bad++
					for _, line := range strings.Split(err.Error(), "\n") {
						fmt.Fprintf(c.OutOrStdout(), "%s: %s\n", name, line)
					}
					continue
				}
				if found := d.Findings(); len(found) > 0 {
					bad++
					for _, f := range found {
						fmt.Fprintf(c.OutOrStdout(), "%s: %s\n", name, f)
					}
					continue
				}
				layers := 0
				d.Visit(func(string, *template.Layer) { layers++ })
				fmt.Fprintf(c.OutOrStdout(), "%s: sound. %s, %d formats, %d frames at %s, %d pockets, %d layers, %d entries\n",
					name, d.Name, len(d.Formats), d.Frames, d.Rate.Label(), len(d.Pockets), layers, len(d.Sheet.Entries()))
			}
			if bad > 0 {
				return fmt.Errorf("%d of %d documents have faults", bad, len(args))
			}
			return nil
		},
	}
}
