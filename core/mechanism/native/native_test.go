package native_test

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/native"
	"leitstand/internal/sample"
)

// store is a store, whose it is, and how names of it begin.
type store struct {
	native.Mechanism
	of     string
	system mapping.System
	names  []string
}

var stores = []store{
	{native.Mechanism{Store: change.Dconf}, "gnome", mapping.Linux, []string{"/org/tide/gauge/", "/org/tide/"}},
	{native.Mechanism{Store: change.Xfconf}, "xfce", mapping.Linux, []string{"tide:/gauge/", "tide:/"}},
	{
		native.Mechanism{Store: change.KDE},
		"plasma",
		mapping.Linux,
		[]string{"tiderc [Gauge] ", "tiderc [Gauge][Station 3] "},
	},
	{
		native.Mechanism{Store: change.Defaults},
		"macos",
		mapping.MacOS,
		[]string{"example.tide ", "example.tide.gauge "},
	},
	{
		native.Mechanism{Store: change.Registry},
		"windows",
		mapping.Windows,
		[]string{`HKCU\Software\Tide:`, `HKLM\Software\Süderhaff Tide:`},
	},
}

func (s store) machine() *mechanism.Machine {
	m := mapping.Machine{System: s.system, Layouts: []string{"us"}}
	if s.system == mapping.Linux {
		m.Desktop, m.Session = s.of, "wayland"
	}
	return sample.Machine(m)
}

func set(of, name string, v behaviour.Value) mechanism.Binding {
	return behaviour.Set(behaviour.Option{Kind: behaviour.Native, For: of, Name: name}, v)
}

// What is taken is written so that it reads back, whatever the value.
func TestReadsWhatItWrites(t *testing.T) {
	for _, s := range stores {
		t.Run(s.of, func(t *testing.T) {
			taken := 0
			m := s.machine()
			require.True(t, s.Serves(m))
			text := rapid.OneOf(
				rapid.Just(sample.Nasty),
				rapid.StringMatching(`[ -~äß€\n\t]{0,12}`),
				rapid.SampledFrom([]string{"true", "0", "-7", "0.5", "uint32 5", "[x]"}),
			)
			rapid.Check(t, func(rt *rapid.T) {
				var list []mechanism.Binding
				for _, key := range rapid.SliceOfNDistinct(rapid.StringMatching(`[a-z][a-z-]{0,6}`), 1, 4, rapid.ID).Draw(rt, "keys") {
					name := rapid.SampledFrom(s.names).Draw(rt, "in") + key
					if typ := rapid.SampledFrom([]string{"", "", "", " uint32", " double", " uint", " x"}).Draw(rt, "type"); s.system == mapping.Linux &&
						s.of != "plasma" {
						name += typ
					}
					v := rapid.OneOf(
						rapid.Map(text, func(s string) behaviour.Value { return behaviour.Word(s) }),
						rapid.Map(rapid.Int64(), func(n int64) behaviour.Value { return behaviour.Whole(n) }),
						rapid.Map(rapid.IntRange(-3, 3), func(n int) behaviour.Value { return behaviour.Whole(n) }),
						rapid.Map(rapid.Bool(), func(b bool) behaviour.Value { return behaviour.Truth(b) }),
						rapid.Map(
							rapid.SliceOfN(text, 0, 3),
							func(l []string) behaviour.Value { return append(behaviour.Words{}, l...) },
						),
					).Draw(rt, "value")
					b := set(s.of, name, v)
					answer := s.Take(m, b)
					if answer.Verdict == mechanism.Unavailable {
						require.NotEmpty(rt, answer.Why, name)
						continue
					}
					taken++
					if answer.Does != nil {
						b.Effect = *answer.Does
					}
					list = append(list, b)
				}
				if len(list) == 0 {
					return
				}
				out, err := mechanism.Write(s, m, list)
				require.NoError(rt, err)
				got, err := s.Read(m, mechanism.Folder(out.Files()))
				require.NoError(rt, err, "%s", out.Files())
				require.Empty(rt, behaviour.Compare(list, got), "%s", out.Files())
			})
			assert.Greater(t, taken, 40)
		})
	}
}

func TestTake(t *testing.T) {
	for _, c := range []struct {
		of, name string
		value    behaviour.Value
		words    string // "" for taken
	}{
		{"gnome", "/org/gnome/desktop/interface/clock-show-seconds", behaviour.Truth(true), ""},
		{"gnome", "org.gnome.desktop.interface clock-show-seconds", behaviour.Truth(true), "no path of dconf"},
		{"gnome", "/org/gnome/desktop/peripherals/mouse/speed double", behaviour.Word("0.5"), ""},
		{"gnome", "/org/gnome/desktop/peripherals/mouse/speed double", behaviour.Word("fast"), `"fast" is no double`},
		{"gnome", "/org/gnome/desktop/peripherals/mouse/speed float", behaviour.Word("0.5"), `"float" is no type of a value here: uint32,`},
		{"gnome", "/org/gnome/x", behaviour.Whole(1 << 40), "more than 32 bits"},
		{"xfce", "xfwm4/general/click_to_focus", behaviour.Truth(true), "no channel and property"},
		{"xfce", "xfwm4:/general/titles", behaviour.Words{"a"}, "not written yet"},
		{"plasma", "kwinrc Windows FocusPolicy", behaviour.Word("x"), "no file, group and key"},
		{"plasma", "../kwinrc [Windows] FocusPolicy", behaviour.Word("x"), "no file, group and key"},
		{"macos", "com.apple.dock", behaviour.Truth(true), "no domain and key"},
		{"windows", `HKCU\Control Panel\Keyboard:KeyboardDelay`, behaviour.Word("1"), ""},
		{"windows", `HKEY_USERS\x:y`, behaviour.Word("1"), "no value of the registry"},
		{"windows", `HKCU\x:y`, behaviour.Truth(true), "write 1 for true"},
	} {
		for _, s := range stores {
			got := s.Take(s.machine(), set(c.of, c.name, c.value))
			assert.Equal(t, s.of == c.of &&
				c.words == "", got.Verdict == mechanism.Exact, "%s on %s: %s", c.name, s.of, got.Why.String())
			if s.of == c.of {
				assert.Contains(t, got.Why.String(), c.words)
			}
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("[org/tide]\ngauge=uint32 5\n"), "x")
	f.Fuzz(func(t *testing.T, data []byte, name string) {
		for _, s := range stores {
			_, _ = s.Read(s.machine(), fstest.MapFS{"native/settings": {Data: data}})
		}
	})
}

// lines are those of steps, for a shell.
func lines(steps []mechanism.Step) string {
	var all []string
	for _, s := range steps {
		all = append(all, s.Lines...)
	}
	return strings.Join(all, "\n") + "\n"
}
