//go:build !(goexperiment.simd && amd64)

package raster

// vectors says whether rows are done with vector instructions; this machine or
// this build has none.
var vectors = false

func overRowVector(dst, src []uint8) int           { return 0 }
func overFlatVector(dst []uint8, px uint32) int    { return 0 }
func fadeRowVector(px []uint8, alpha uint32) int   { return 0 }
func coverRowVector(px []uint8, cov []uint8) int   { return 0 }
func blendRowVector(dst, src []uint8, _ Blend) int { return 0 }
func runVector(dst, _, _ []uint8, _, _ uint64) int { return 0 }

func (g *gathered) weighVector([]uint8)                          {}
func (t *toned) roundVector([]uint8, *[8]uint16)                 {}
func (s *Shade) radialVector([]int32, float64, float64, int) int { return 0 }
func (s *Shade) conicVector([]int32, float64, float64, int) int  { return 0 }

func (g *Grader) rowVector([]uint8) int     { return 0 }
func matteVector(to, _ []uint8, _ bool) int { return 0 }
func mulCoverVector(dst, _ []uint8) int     { return 0 }
func mixRowVector(_, _, cov []uint8) int    { return 0 }

func boxVector(_, _ []uint16, _, _ int, _ box)                    {}
func kernelVector(_, _ []uint16, _, _ int, _ []float32)           {}
func meanVector([]uint16, int, int, int, float32) (out [4]uint16) { return }
func widenVector([]uint16, []uint8) int                           { return 0 }
func narrowVector([]uint8, []uint16, *[4]uint32) int              { return 0 }

func lineVector([]int32, []uint16, []uint16, int32, int32) int { return 0 }
func growVector([]uint16, []int32, int) int                    { return 0 }
func growOneVector([]uint16, []int32, int) int                 { return 0 }

func underVector([]uint8, []uint16, *[4]uint32, *[4]uint32) int { return 0 }
func addAlphaVector([]uint32, []uint8, uint32) int              { return 0 }
func betweenVector([]uint16, []uint32, uint32) int              { return 0 }
func nearVector([]float32, int, piece) int                      { return 0 }
func rootsVector([]float32, float32) int                        { return 0 }

func boundsVector(a, b []float32) (lo, hi float32) { return }
