package vector

import (
	"regexp"
	"strconv"
	"strings"

	"ivypocket/media/limits"
)

// Elements that are left out, and what they are called then. "" is told to nobody:
// it is nothing that could be seen.
var leftOut = map[string]string{
	"foreignObject": "an embedded page", "iframe": "an embedded page", "object": "an embedded page", "embed": "an embedded page", "canvas": "an embedded page",
	"audio": "sound", "video": "a film", "metadata": "", "title": "", "desc": "",
	"font": "a font", "font-face": "", "glyph": "", "hkern": "", "vkern": "", "cursor": "", "view": "",
}

// moving lists what makes a drawing move; a mark is drawn as it stands without it.
var moving = map[string]bool{"animate": true, "animateTransform": true, "animateMotion": true, "animateColor": true, "set": true, "discard": true, "mpath": true}

// clean takes out of a tree what is not needed, and refuses what would fetch or run.
func (c *cleaner) clean(n *node) error {
	if err := c.attributes(n); err != nil {
		return err
	}
	kids := n.kids[:0]
	for _, k := range n.kids {
		keep, err := c.keeps(n, k)
		if err != nil {
			return err
		}
		if !keep {
			continue
		}
		if k.name != "" {
			if err := c.clean(k); err != nil {
				return err
			}
		}
		kids = append(kids, k)
	}
	n.kids = kids
	if n.name == "style" {
		text, err := c.styleSheet(n.content())
		if err != nil {
			return err
		}
		n.kids = []*node{{text: text}}
	}
	return nil
}

func (c *cleaner) keeps(up, n *node) (bool, error) {
	if n.name == "" {
		// Text is drawn where text is; elsewhere it is spacing of the file.
		return strings.TrimSpace(n.text) != "" || textual[up.name], nil
	}
	if n.space != svgSpace && n.space != "" {
		return false, nil // another program's own
	}
	switch {
	case n.name == "script" || n.name == "handler" || n.name == "listener":
		return false, refuse("The SVG has a script (<%s>). Save it as plain SVG.", n.name)
	case moving[n.name]:
		c.say("It moves; it is drawn as it stands without that.")
		return false, nil
	}
	if what, ok := leftOut[n.name]; ok {
		if what != "" {
			c.leave(what)
		}
		return false, nil
	}
	if n.name == "image" {
		ref := reference(n)
		if kind, ok := strings.CutPrefix(strings.ToLower(ref), "data:"); ok && !picture(ref) {
			kind, _, _ = strings.Cut(kind, ";")
			kind, _, _ = strings.Cut(kind, ",")
			c.leave("an embedded picture of the kind " + brief(kind))
			return false, nil
		}
	}
	return true, nil
}

// textual lists the elements whose text is drawn, or read.
var textual = map[string]bool{"text": true, "tspan": true, "textPath": true, "tref": true, "style": true, "a": true}

func reference(n *node) string {
	ref := ""
	for _, a := range n.attrs {
		if a.name == "href" && (a.space == "" || a.space == xlinkSpace) {
			if ref = a.value; a.space == "" {
				break // the newer one goes before
			}
		}
	}
	return strings.TrimSpace(ref)
}

func picture(ref string) bool {
	low := strings.ToLower(strings.TrimSpace(ref))
	return strings.HasPrefix(low, "data:image/png;") || strings.HasPrefix(low, "data:image/jpeg;") || strings.HasPrefix(low, "data:image/jpg;")
}

func brief(s string) string {
	if len(s) > 60 {
		return s[:60] + "…"
	}
	return s
}

func (c *cleaner) attributes(n *node) error {
	out := n.attrs[:0]
	for _, a := range n.attrs {
		low := strings.ToLower(a.name)
		switch {
		case strings.HasPrefix(low, "on") && a.space == "":
			return refuse("The SVG has a script (%s). Save it as plain SVG.", a.name)
		case (low == "href" || low == "src") && n.name == "a":
			c.leave("links")
			continue
		case low == "href" || low == "src":
			if err := inside(a.value, n.name == "image" || n.name == "feImage"); err != nil {
				return err
			}
			if a.space != "" && a.space != xlinkSpace {
				continue
			}
		case a.space == xmlSpace || a.space == "xml":
			if low == "base" {
				continue // all that is referred to is inside
			}
		case a.space != "":
			continue // another program's own
		default:
			if err := inStyle(a.value); err != nil {
				return err
			}
		}
		out = append(out, a)
	}
	n.attrs = out
	return nil
}

// inside refuses a reference that leads out of the drawing.
func inside(ref string, pictures bool) error {
	ref = strings.TrimSpace(ref)
	if ref == "" || ref[0] == '#' || pictures && picture(ref) {
		return nil
	}
	return refuse("The SVG refers to something outside itself (%s). Embed it or leave it out.", brief(ref))
}

var (
	cssImport  = regexp.MustCompile(`(?i)@import`)
	cssURL     = regexp.MustCompile(`(?i)url\(\s*['"]?\s*([^'")\s]*)`)
	cssComment = regexp.MustCompile(`(?s)/\*.*?\*/`)
	cssFace    = regexp.MustCompile(`(?is)@font-face\s*\{[^}]*\}`)
	cssEscape  = regexp.MustCompile(`\\([0-9a-fA-F]{1,6}\s?|.)`)
)

// unescaped undoes CSS escapes, behind which words could hide.
func unescaped(s string) string {
	return cssEscape.ReplaceAllStringFunc(s, func(e string) string {
		if n, err := strconv.ParseUint(strings.TrimSpace(e[1:]), 16, 32); err == nil {
			return string(rune(n))
		}
		return e[1:]
	})
}

func inStyle(s string) error {
	s = unescaped(cssComment.ReplaceAllString(s, ""))
	if cssImport.MatchString(s) {
		return refuse("The SVG takes its style from another file. Put the style inside.")
	}
	for _, u := range cssURL.FindAllStringSubmatch(s, -1) {
		if err := inside(u[1], true); err != nil {
			return err
		}
	}
	return nil
}

// styleSheet takes fonts out of a style sheet, which can't be drawn with, and
// refuses what leads outside.
func (c *cleaner) styleSheet(s string) (string, error) {
	s = cssComment.ReplaceAllString(s, "")
	if cssFace.MatchString(s) {
		c.leave("a font")
		s = cssFace.ReplaceAllString(s, "")
	}
	if strings.Contains(strings.ToLower(s), "@keyframes") {
		c.say("It moves; it is drawn as it stands without that.")
	}
	return s, inStyle(s)
}

// unitPx is how many CSS px a unit has (CSS Values and Units Level 3).
var unitPx = map[string]float64{"": 1, "px": 1, "pt": 4.0 / 3, "pc": 16, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96, "em": 16, "ex": 8, "rem": 16}

// Size of a drawing that says none: CSS 2.2, 10.3.2.
const (
	usualWidth  = 300
	usualHeight = 150
)

// size is the drawing's own size: width and height, else the viewBox, else what
// browsers take, which is then written into it; assumed says so.
func size(root *node) (w, h int, assumed bool, err error) {
	length := func(s string) float64 {
		s = strings.TrimSpace(s)
		i := len(s)
		for i > 0 && (s[i-1] >= 'a' && s[i-1] <= 'z' || s[i-1] == '%') {
			i--
		}
		n, err := strconv.ParseFloat(s[:i], 64)
		k, ok := unitPx[s[i:]]
		if err != nil || !ok || !(n > 0) {
			return 0
		}
		return n * k
	}
	fw, fh := length(root.get("width")), length(root.get("height"))
	var vw, vh float64
	box := strings.FieldsFunc(root.get("viewBox"), func(r rune) bool { return strings.ContainsRune(" ,\t\r\n", r) })
	if len(box) == 4 {
		vw, _ = strconv.ParseFloat(box[2], 64)
		vh, _ = strconv.ParseFloat(box[3], 64)
	}
	switch {
	case fw > 0 && fh > 0:
	case vw > 0 && vh > 0:
		switch {
		case fw > 0:
			fh = fw * vh / vw
		case fh > 0:
			fw = fh * vw / vh
		default:
			fw, fh = vw, vh
		}
	default:
		assumed = fw == 0 && fh == 0
		if fw == 0 {
			fw = usualWidth
		}
		if fh == 0 {
			fh = usualHeight
		}
	}
	if !(fw < limits.PictureSide && fh < limits.PictureSide) {
		return 0, 0, false, refuse("The SVG is %.0f × %.0f px; the limit is %d px a side.", fw, fh, limits.PictureSide)
	}
	if !(vw > 0 && vh > 0) {
		// So that it can be drawn at any size.
		root.set("viewBox", "0 0 "+number(fw)+" "+number(fh))
	}
	root.set("width", number(fw))
	root.set("height", number(fh))
	return max(1, int(fw+0.5)), max(1, int(fh+0.5)), assumed, nil
}

func number(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
