package main

import (
	"fmt"

	"github.com/spf13/cobra"

	"ivypocket/core/scene"
	"ivypocket/core/sheet"
	"ivypocket/core/timing"
	"ivypocket/media"
)

func explainCommand() *cobra.Command {
	var values, format, size, mediaDir, piece string
	frame := int64(-1)
	c := &cobra.Command{
		Use:   "explain [TEMPLATE]",
		Short: "Say what is drawn in a frame",
		Long: `Prints the draw list of one frame as text: every item with its place, what is
inside what, masks and mattes, and the hash of all that an item draws. Two
frames that look alike have one address.`,
		Example: `  ivypocket explain four-winds --frame 30
  ivypocket explain split.json --media ./media --frame 12`,
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			s, err := openStore(c)
			if err != nil {
				return err
			}
			defer s.Close()
			if mediaDir != "" {
				if err := takeIn(c, s, mediaDir); err != nil {
					return err
				}
			}
			doc, v, err := source(c, s, args, piece, values)
			if err != nil {
				return err
			}
			if format == "" {
				format = doc.Formats[0].ID
			}
			r, err := sheet.Resolve(doc, v)
			if err != nil {
				return err
			}
			lib := media.NewLibrary(s)
			defer lib.Close()
			sc, err := scene.Compile(r, format, lib)
			if err != nil {
				return err
			}
			px := scene.Size{W: int(sc.Canvas().W), H: int(sc.Canvas().H)}
			if size != "" {
				if px.W, px.H, err = parsePair(size, "x"); err != nil {
					return fmt.Errorf("--size: %w", err)
				}
				if px.W < 1 || px.H < 1 {
					return fmt.Errorf("--size: %d × %d px is no size", px.W, px.H)
				}
			}
			if frame < 0 {
				frame = int64(sc.Poster())
			}
			if frame >= sc.Frames() {
				return fmt.Errorf("frame: %d is not one of the piece's %d frames", frame, sc.Frames())
			}
			var l scene.List
			now := sc.Time().At(timing.OutputFrame(frame))
			sc.At(&l, now, px)
			fmt.Fprintf(c.OutOrStdout(), "%s, %s, frame %d (%s), template time %s\n", doc.Name, format, frame, doc.Rate.Timecode(frame), now.Template)
			return l.Explain(c.OutOrStdout())
		},
	}
	f := c.Flags()
	f.StringVar(&values, "values", "", "file of an editor's values (JSON: fills and entries)")
	f.StringVar(&piece, "piece", "", "id of a piece")
	f.StringVar(&format, "format", "", "id of the format (default: the first)")
	f.StringVar(&size, "size", "", "size in pixels, such as 960x540 (default: the format's)")
	f.Int64Var(&frame, "frame", -1, "frame, counted from 0 (default: the poster)")
	f.StringVar(&mediaDir, "media", "", "folder of media to take in first")
	return c
}
