package native_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/native"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// The steps set values of real stores, where a program of the store's own reads them by their
// schemas or types, also when they are taken twice. Taken back, all is as before.
func TestSetInRealStores(t *testing.T) {
	p := realtest.FindPlasma(t)
	reader := strings.Replace(p.Writer, "write", "read", 1)
	for _, c := range []struct {
		store
		needs, pkg string
		list       []mechanism.Binding
		own, dump  string
		reads      map[string]string // what is printed, by what is asked
	}{
		{stores[0], "gsettings", "libglib2.0-bin", []mechanism.Binding{
			set("gnome", "/org/gnome/desktop/interface/clock-show-seconds", behaviour.Truth(true)),
			set("gnome", "/org/gnome/desktop/peripherals/mouse/speed double", behaviour.Word("0.5")),
			set("gnome", "/org/gnome/desktop/session/idle-delay uint32", behaviour.Whole(77)),
			set("gnome", "/org/gnome/desktop/interface/font-name", behaviour.Word(sample.Nasty)),
			set("gnome", "/org/gnome/desktop/input-sources/xkb-options", behaviour.Words{"compose:menu", "it's"}),
			set("gnome", "/org/gnome/desktop/sound/theme-name", behaviour.Word("tide")),
		}, "dconf write /org/gnome/desktop/session/idle-delay 'uint32 5'", "dconf dump /", map[string]string{
			"gsettings get org.gnome.desktop.interface clock-show-seconds": "true",
			"gsettings get org.gnome.desktop.peripherals.mouse speed":      "0.5",
			"gsettings get org.gnome.desktop.session idle-delay":           "uint32 77",
			"gsettings get org.gnome.desktop.input-sources xkb-options":    `['compose:menu', "it's"]`,
			"gsettings get org.gnome.desktop.sound theme-name":             "'tide'",
		}},
		{stores[1], "xfconf-query", "xfconf", []mechanism.Binding{
			set("xfce", "xfwm4:/general/click_to_focus", behaviour.Truth(false)), set("xfce", "xfwm4:/general/snap_width", behaviour.Whole(33)),
			set("xfce", "tide:/gauge/station", behaviour.Word(sample.Nasty)), set("xfce", "tide:/gauge/height double", behaviour.Word("-5.25")), set("xfce", "tide:/gauge/count uint", behaviour.Whole(7)),
		}, "xfconf-query -c xfwm4 -p /general/snap_width -n -t int -s 5", "for c in xfwm4 tide; do xfconf-query -c " +
			"$c -l -v 2>&1 | LC_ALL=C sort; done", map[string]string{
			"xfconf-query -c xfwm4 -p /general/click_to_focus": "false",
			"xfconf-query -c xfwm4 -p /general/snap_width":     "33",
			"xfconf-query -c tide -p /gauge/station":           sample.Nasty,
			"xfconf-query -c tide -p /gauge/height":            "-5.250000", "xfconf-query -c tide -p /gauge/count": "7",
		}},
		{stores[2], "gdbus", "libglib2.0-bin", []mechanism.Binding{
			set("plasma", "kwinrc [Windows] FocusPolicy", behaviour.Word("FocusFollowsMouse")), set("plasma", "kwinrc [Windows] DelayFocusInterval", behaviour.Whole(220)),
			set("plasma", "tiderc [Gauge][Station 3] On", behaviour.Truth(true)), set("plasma", "tiderc [Gauge] Name", behaviour.Word(strings.TrimSpace(sample.Nasty))),
		}, p.Writer + " --file kwinrc --group Windows --key FocusPolicy own", "cat .config/kwinrc; cat " +
			".config/tiderc 2>/dev/null || true", map[string]string{
			reader + " --file kwinrc --group Windows --key FocusPolicy": "FocusFollowsMouse", reader + " --file kwinrc --group Windows --key DelayFocusInterval": "220",
			reader + " --file tiderc --group Gauge --group 'Station 3' --key On": "true", reader + " --file tiderc " +
				"--group Gauge --key Name": strings.TrimSpace(sample.Nasty),
		}},
	} {
		t.Run(c.of, func(t *testing.T) {
			realtest.Need(t, c.needs, c.pkg)
			for _, b := range c.list {
				require.Equal(t, mechanism.Exact, c.Take(c.machine(), b).Verdict, b.Option.Name)
			}
			out, err := mechanism.Write(c, c.machine(), c.list)
			require.NoError(t, err)
			home, env := realtest.Home(t)
			for _, f := range out.Files() {
				file := filepath.Join(home, f.Path)
				require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
				require.NoError(t, os.WriteFile(file, f.Data, 0o644))
			}
			part := "\necho '==='\n"
			script := "set -e\ncd '" + home + "'; mkdir -p .config\n" + c.own + part + c.dump + part + lines(
				out.Back(),
			) + c.dump + part + lines(out.Steps()) + lines(out.Steps()) + c.dump + part
			var asked []string
			for ask := range c.reads {
				asked = append(asked, ask)
				script += ask + part
			}
			script += lines(out.Back()) + c.dump + part + lines(out.Back()) + c.dump
			said := strings.Split(realtest.Bus(t, env, script), "===\n")
			before, n := said[1], len(asked)
			assert.Equal(t, before, said[2], "taken back before anything was done")
			assert.NotEqual(t, before, said[3])
			for i, ask := range asked {
				assert.Equal(t, c.reads[ask]+"\n", said[4+i], ask)
			}
			// KDE's program leaves a file without a key.
			assert.Equal(t, strings.TrimSpace(before), strings.TrimSpace(said[4+n]))
			assert.Equal(t, strings.TrimSpace(before), strings.TrimSpace(said[5+n]), "twice")
		})
	}
}

// Wine's registry editor takes the file, and gives the values back.
func TestImportedByRegistryEditor(t *testing.T) {
	s := native.Mechanism{Store: change.Registry}
	list := []mechanism.Binding{
		set(
			"windows",
			`HKCU\Control Panel\Keyboard:KeyboardDelay`,
			behaviour.Word("1"),
		), set("windows", `HKCU\Software\Süderhaff:Path gauge`, behaviour.Word(`C:\Tide\"x"`)),
		set("windows", `HKLM\Software\Tide:Count`, behaviour.Whole(4000000000)),
	}
	m := stores[4].machine()
	for _, b := range list {
		require.Equal(t, mechanism.Exact, s.Take(m, b).Verdict, b.Option.Name)
	}
	out, err := mechanism.Write(s, m, list)
	require.NoError(t, err)
	wine := realtest.NewWine(t)
	require.NoError(t, os.WriteFile(wine.Path("settings.reg"), out.Files()[0].Data, 0o644))
	wine.Run("reg", "import", `C:\settings.reg`)
	for key, want := range map[string]string{
		`HKCU\Control Panel\Keyboard`: `"KeyboardDelay"="1"`, `HKCU\Software\Süderhaff`: `"Path gauge"="C:\\Tide\\\"x\""`, `HKLM\Software\Tide`: `"Count"=dword:ee6b2800`,
	} {
		wine.Run("reg", "export", key, `C:\out.reg`, "/y")
		raw, err := os.ReadFile(wine.Path("out.reg"))
		require.NoError(t, err)
		text, err := unicode.UTF16(unicode.LittleEndian, unicode.ExpectBOM).NewDecoder().Bytes(raw)
		require.NoError(t, err)
		assert.Contains(t, string(text), want+"\r\n")
	}
}
