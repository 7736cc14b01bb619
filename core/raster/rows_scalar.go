//go:build !(goexperiment.simd && amd64)

package raster

// vectors says whether rows are done with vector instructions; this machine or
// this build has none.
var vectors = false

func overRowVector(dst, src []uint8) int         { return 0 }
func overFlatVector(dst []uint8, px uint32) int  { return 0 }
func fadeRowVector(px []uint8, alpha uint32) int { return 0 }
func coverRowVector(px []uint8, cov []uint8) int { return 0 }
