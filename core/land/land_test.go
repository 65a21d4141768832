package land_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/diag"
	"leitstand/core/land"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/internal/sample"
)

func build(t testing.TB, text string) ([]*compile.Build, diag.List) {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, diags, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	return builds, diags
}

// What stands in for a wish is there also where the wish could be had by itself, and not beside the
// other rules or for the board that it is meant for.
func TestFallbackBesideOthers(t *testing.T) {
	builds, _ := build(t, `
board "chart-table" { ids = ["usb:1209:0001"] }
machine "gauge" {
  system  = "linux"
  desktop = "i3"
}
machine "pier" {
  system  = "linux"
  desktop = "gnome"
  boards  = ["chart-table"]
}
launch "Ctrl+Alt+F1" {
  run      = "tidegauge"
  fallback = ["Ctrl+Alt+F2", "Meta+F1"]
  on       = "gauge"
}
on "chart-table" {
  hyper "CapsLock" { fallback = "Escape" }
}`)
	var got []string
	for _, b := range builds {
		for _, l := range b.Landings {
			got = append(got, b.Machine.Name+": "+l.Instead()+" → "+l.Binding.String()+": "+l.Offer.Verdict.String())
		}
	}
	assert.Equal(t, []string{
		"gauge: Ctrl+Alt+F1 → Meta+F1 runs tidegauge: exact",
		"pier: Hyper → CapsLock on chart-table acts as Escape: exact",
	}, got)
}

// An action that a system has once has one chord at most, with those that it has by itself.
func TestOneChordForWhatIsThereOnce(t *testing.T) {
	sample.Anew(t, 200)
	once := 0
	rapid.Check(t, func(t *rapid.T) {
		d := sample.Valid(t)
		for _, m := range d.Mapping.Machines {
			landed, _ := land.Resolve(d.Mapping, m)
			type of struct{ does, apps string }
			chords, single := map[of][]string{}, map[of]bool{}
			for i := range landed.Landings {
				l := &landed.Landings[i]
				e := l.Written().Effect
				if l.Mechanism == nil || e.Kind != behaviour.Acts {
					continue
				}
				one, ok := l.Mechanism.(interface{ Single(action string) bool })
				id := of{e.Action, strings.Join(l.Binding.Apps, " ")}
				if has := ok && one.Single(e.Action); has || l.ByItself() {
					chords[id] = append(chords[id], l.Binding.Press())
					single[id] = single[id] || has
				}
			}
			for id, list := range chords {
				if single[id] {
					once++
					require.Len(t, list, 1, "%s on %s: %v\n%s", id.does, m.Name, list, d.Text)
				}
			}
		}
	})
	require.Greater(t, once, 3)
}

// What is struck is struck for a reason that still holds: put back where it was, something would be
// in its way or it in that of others.
func TestNoWayIsGivenUpForNothing(t *testing.T) {
	sample.Anew(t, 800)
	struck := 0
	rapid.Check(t, func(t *rapid.T) {
		d := sample.Mapping(t)
		if d.Wrong != "" || d.Found.HasErrors() {
			return
		}
		for _, m := range d.Mapping.Machines {
			landed, _ := land.Resolve(d.Mapping, m)
			n, wasted := landed.PutBack()
			struck += n
			require.Empty(t, wasted, "%s\n%s", m.Name, d.Text)
		}
	})
	require.Greater(t, struck, 20)
	t.Log(struck, "ways were struck")
}

// A way struck because of another press is free again when that press goes elsewhere itself.
func TestStruckWayIsTriedAgain(t *testing.T) {
	builds, _ := build(t, `
machine "gauge" {
  system  = "linux"
  desktop = "i3"
  session = "x11"
}
remap "F6" { to = "Alt+PageDown" }
remap "PageDown" { to = "F6" }`)
	var got []string
	for _, l := range builds[0].Landings {
		got = append(got, l.Binding.String()+": "+l.Offer.Verdict.String())
	}
	assert.Equal(t, []string{"F6 gives Alt+PageDown: unavailable", "PageDown acts as F6: exact"}, got)
}

// Hyper is Globe on a Mac where an action has its chord with it; launches then take what stands in for Hyper.
func TestGlobeIsHyper(t *testing.T) {
	for _, c := range []struct{ rule, want string }{
		{`action "Hyper+o" { does = "overview" }`, "[CapsLock acts as Fn Fn+KeyO does overview Ctrl+Alt+KeyT opens https://tides.example]"},
		{`action "Hyper+ArrowUp" { does = "overview" }`, "[CapsLock acts as ControlLeft Ctrl+Alt+ArrowUp does overview " +
			"Ctrl+Alt+KeyT opens https://tides.example]"},
	} {
		builds, _ := build(t, `
machine "pier" { system = "macos" }
hyper "CapsLock" {
  fallback = "ControlLeft"
  instead  = "Ctrl+Alt"
}
`+c.rule+`
launch "Hyper+t" { open = "https://tides.example" }`)
		var got []string
		for _, l := range builds[0].Landings {
			got = append(got, l.Written().String())
			assert.NotNil(t, l.Mechanism)
		}
		assert.Equal(t, c.want, fmt.Sprint(got))
		assert.Equal(t, mechanism.NeedsAgent, builds[0].Landings[2].Verdict())
	}
}
