package station_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/compile"
	"leitstand/core/mapping"
	"leitstand/core/station"
)

func told(list []station.Moment) string {
	var lines []string
	for _, m := range list {
		lines = append(lines, fmt.Sprintf("%d %s: %s", m.At.Milliseconds(), m.Does, strings.Join(m.Sees, ", ")))
	}
	return strings.Join(lines, "; ")
}

// Strokes are played in time, by what the files do and by what the mapping means.
func TestPlay(t *testing.T) {
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(`
machine "mess" {
  system  = "linux"
  desktop = "i3"
  session = "x11"
  layouts = ["de"]
}
hyper "CapsLock" {}
remap "Pause" {
  tap  = "F13"
  hold = "ShiftRight"
}
launch "Hyper+t" { run = ["tidegauge"] }
remap "Meta+KeyC" { to = "Ctrl+KeyC" }
layer "arrows" {
  while = "ControlRight"
  keys = { KeyH = "ArrowLeft" }
}
`)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	for _, c := range []struct{ strokes, does, wanted string }{
		{"KeyZ 80ms", "0 KeyZ down: KeyZ down; 81 KeyZ up: KeyZ up", ""},
		{"hold ControlRight, h, release ControlRight",
			"0 ControlRight down: ; 51 KeyH down: ArrowLeft down; 102 KeyH up: ArrowLeft up; 153 ControlRight up: ",
			""},
		{"Meta+c 10ms", "0 MetaLeft down: MetaLeft down; 1 KeyC down: MetaLeft up, ControlLeft down, KeyC tapped, " +
			"ControlLeft up, MetaLeft down; 12 KeyC up: ; 13 MetaLeft up: MetaLeft up", ""},
		// What a press means can depend on its time.
		{"CapsLock 100ms", "0 CapsLock down: Hyper down; 101 CapsLock up: Hyper up", ""},
		{"hold CapsLock, wait 1s, t, release CapsLock",
			"0 CapsLock down: Hyper down; 1051 KeyT down: runs tidegauge; 1102 KeyT up: ; 1153 CapsLock up: Hyper up",
			""},
		{"Pause 300ms", "0 Pause down: Pause down; 301 Pause up: Pause up", "0 Pause down: ; 200 : ShiftRight " +
			"down; 301 Pause up: ShiftRight up"},
		{"Pause 90ms", "0 Pause down: Pause down; 91 Pause up: Pause up", "0 Pause down: ; 91 Pause up: F13 tapped"},
	} {
		require.True(t, station.Timed(c.strokes), c.strokes)
		p, err := of(t, mp, builds[0]).Play(c.strokes, station.Where{})
		require.NoError(t, err, c.strokes)
		assert.Equal(t, c.does, told(p.Moments), c.strokes)
		assert.Equal(t, c.wanted, told(p.Wanted), c.strokes)
	}
	for strokes, want := range map[string]string{
		"wait soon": "write one such as 300ms", "hold Crtl+t": `did you mean "Ctrl"`,
	} {
		_, err := of(t, mp, builds[0]).Play(strokes, station.Where{})
		assert.ErrorContains(t, err, want)
	}
	assert.False(t, station.Timed("Hyper+t"))
	assert.False(t, station.Timed("Ctrl+k, t"))
}
