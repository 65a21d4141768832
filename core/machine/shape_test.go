package machine_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"leitstand/core/machine"
)

// shapes calls a function with every shape that a board can have.
func shapes(each func(name string, s machine.Shape)) {
	for _, kind := range append([]string{""}, machine.Kinds...) {
		for _, form := range append([]string{""}, machine.Forms...) {
			for _, split := range []bool{false, true} {
				for _, mac := range []bool{false, true} {
					s := machine.Shape{Kind: kind, Form: form, Split: split, Mac: mac}
					each(fmt.Sprintf("%+v", s), s)
				}
			}
		}
	}
}

// box is what a cap covers, in quarters and half rows.
func box(c machine.Cap) (x0, x1, y0, y1 int) {
	y0, y1 = 2*c.Row, 2*(c.Row+c.Rows)
	switch c.Half {
	case 1:
		y1--
	case 2:
		y0++
	}
	return c.From, c.From + c.Width, y0, y1
}

// No two keys of a board overlap, each is there once, or in two pieces that meet or are two parts of a space bar, and the
// main block is as wide in each of its rows.
func TestShapes(t *testing.T) {
	shapes(func(name string, s machine.Shape) {
		caps := s.Caps()
		ends := map[int]int{}
		for i, c := range caps {
			x0, x1, y0, y1 := box(c)
			assert.Positive(t, c.Width, name)
			if c.Block == machine.Main {
				ends[c.Row] = max(ends[c.Row], x1)
			}
			for _, o := range caps[:i] {
				ox0, ox1, oy0, oy1 := box(o)
				assert.False(t, x0 < ox1 && ox0 < x1 && y0 < oy1 && oy0 < y1, "%s: %s lies over %s", name, c.Key, o.Key)
				if o.Key == c.Key && c.Key.String() != "Space" {
					assert.Equal(t, "Enter", c.Key.String(), name)
					assert.True(t, oy1 == y0 && max(ox0, x0) < min(ox1, x1), name)
				}
			}
		}
		wide := 60
		if s.Form == "compact" {
			wide = 64
		}
		if s.Split {
			wide += 4
		}
		for row := range 6 {
			if s.Form == "laptop" && s.Mac && row == 0 {
				continue // it ends in a button that is no key
			}
			assert.Equal(t, wide, ends[row], "%s, row %d", name, row)
		}
	})
}

// The common boards have as many keys as they are sold with.
func TestKeysOfCommonBoards(t *testing.T) {
	for _, c := range []struct {
		shape machine.Shape
		keys  int
	}{
		{machine.Shape{Kind: "ansi"}, 104}, {machine.Shape{Kind: "iso"}, 105}, {machine.Shape{Kind: "jis"}, 109},
		{machine.Shape{Kind: "ansi", Form: "tenkeyless"}, 87}, {machine.Shape{Kind: "iso", Form: "tenkeyless"}, 88},
		{machine.Shape{Kind: "iso", Form: "laptop", Mac: true}, 78},
	} {
		found := map[string]bool{}
		for _, cap := range c.shape.Caps() {
			found[cap.Key.String()] = true
		}
		assert.Len(t, found, c.keys, "%+v", c.shape)
	}
}

// A board has the shape that its words say; what is built in is a laptop's.
func TestShapeOf(t *testing.T) {
	for _, c := range []struct {
		board machine.Board
		shape machine.Shape
	}{
		{machine.Board{}, machine.Shape{}},
		{machine.Board{Shape: []string{"split", "jis"}}, machine.Shape{Kind: "jis", Split: true}},
		{machine.Board{Shape: []string{"compact"}, Legends: "mac"}, machine.Shape{Form: "compact", Mac: true}},
		{machine.Board{IDs: []machine.BoardID{{Bus: machine.BuiltIn}}}, machine.Shape{Form: "laptop"}},
		{
			machine.Board{IDs: []machine.BoardID{{Bus: machine.BuiltIn}}, Shape: []string{"tenkeyless"}},
			machine.Shape{Form: "tenkeyless"},
		},
	} {
		assert.Equal(t, c.shape, machine.ShapeOf(&c.board))
	}
}
