package server

import (
	"testing"

	"ivypocket/media/mediatest"
)

func TestMain(m *testing.M) { mediatest.Main(m) }
