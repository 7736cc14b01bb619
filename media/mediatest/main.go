package mediatest

import (
	"os"
	"testing"

	"ivypocket/media/helper"
)

// Main runs a package's tests and leaves nothing of theirs behind in the folder for
// temporary files.
func Main(m *testing.M) {
	code := m.Run()
	_ = helper.Clean()
	os.Exit(code)
}
