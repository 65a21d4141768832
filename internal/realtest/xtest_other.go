//go:build !linux

package realtest

// keyboard is of Linux only; elsewhere there is no X server to start, and its tests
// have been skipped before a key is pressed.
type keyboard struct{}

func (s *Server) chord([]int) { s.t.Fatal("keys are pressed on Linux only") }

// Tap presses a chord without looking at what arrives.
func (s *Server) Tap(evdev ...int) { s.chord(evdev) }

// LockGroup switches the server to a layout group, from 0.
func (s *Server) LockGroup(uint32) { s.chord(nil) }
