package face_test

import (
	"testing"

	"ivypocket/media/mediatest"
)

func TestMain(m *testing.M) { mediatest.Main(m) }
