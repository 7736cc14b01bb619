package e2e

import (
	"bytes"
	"crypto/sha256"
	"fmt"
	"os"
	"path/filepath"
	"testing"
)

// A picture that was cut short is named and shown torn; put in again by hand it
// is back in its places without a reload. Room is made from within.
func TestADamagedFileIsNamedAndMended(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	url, _ := serve(t, dir)
	b, err := os.ReadFile(filepath.Join(dir, "demo media", "Noon.jpg"))
	if err != nil {
		t.Fatal(err)
	}
	sum := fmt.Sprintf("%x", sha256.Sum256(b))
	kept := filepath.Join(dir, "media", sum[:2], sum)
	if err := os.Truncate(kept, 1000); err != nil {
		t.Fatal(err)
	}
	w := walker{t, tab(t, 1280, 800)}
	w.must(w.Go(url))
	w.until(`document.querySelector('[data-test=troubles]')?.innerText.includes('Noon.jpg')`)
	w.until(`document.querySelector('[data-template=four-winds] img')?.dataset.broken === ''`)
	w.until(`document.querySelector('[data-template=gust] img')?.naturalWidth > 300`)

	w.must(w.Go(url + "/media"))
	torn := `document.querySelector('[data-medium="Noon.jpg"] img')?.dataset.broken === ''`
	w.until(torn)
	w.must(w.Drop(".media", w.file(dir, "Noon.jpg", "image/jpeg")))
	w.until(`!(` + torn + `)`)
	w.until(`document.querySelector('[data-medium="Noon.jpg"] img').naturalWidth > 100`)
	w.until(`!document.querySelector('[data-test=troubles]')`)

	if now, err := os.ReadFile(kept); err != nil || !bytes.Equal(now, b) {
		t.Errorf("the file is not mended: %v", err)
	}

	// Cleared away, and the room made at once.
	w.click("[data-test=clear-unused]")
	w.until(`document.querySelector('[data-test=cleared]')?.innerText.includes('still takes')`)
	w.click("[data-test=purge]")
	w.until(`document.querySelector('[data-test=freed]')?.innerText.startsWith('Made')`)
	w.until(`!document.querySelector('[data-test=cleared]')`)
}
