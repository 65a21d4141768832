package imports_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/imports"
)

// What others write and we would not: taken over as far as the language goes, and the rest
// listed.
func TestForeignFiles(t *testing.T) {
	for _, c := range []struct{ name, text, mapping, left string }{
		{"console.map", "keycode 58 = +Escape\nplain keycode 30 = +b\nkeycode 30 = +b +B\n",
			`keys = { CapsLock = "Escape" }`, "it gives \"b\"\nit has 2 columns"},
		{"gnome.ini", "[org/gnome/settings-daemon/plugins/media-keys]\ncustom-keybindings=['/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/a/', " +
			"'/org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/b/']\n\n[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/a]\nname='a'\ncommand='tidegauge'\n\n" +
			"[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/b]\nname='b'\nbinding='<Super>b'\ncommand='xterm'\n\n[org/gnome/desktop/peripherals/keyboard]\ndelay=uint32 0\n",
			`keys = { "Meta+b" = { run = "xterm" } }`, "delay is no number"},
		{"xfce4-keyboard-shortcuts.xml", `<?xml version="1.0"?><channel name="xfce4-keyboard-shortcuts" version="1.0"><property name="commands" type="empty"><property name="custom" type="empty">` +
			`<property name="&lt;Super&gt;t" type="string" value="xterm"/></property></property></channel>`, `keys = { "Meta+t" = { run = "xterm" } }`, ""},
		{"i3/config", "bindsym Mod4+F12 workspace number 12\nbindsym Mod4+F1 exec\nbindsym Mod4+z workspace number " +
			"0\nbindsym Mod4+y workspace number 13\n" +
			"mode \"resize\" {\n bindsym h resize shrink width\n bindsym Return mode \"default\"\n}\nbindsym " +
			"Mod4+r mode \"resize\"\n",
			`keys = { "Meta+F12" = { does = "workspace-12" } }`, "Meta+F1 does \"exec\"\nstays in its mode\nworkspaces " +
				"go from 1 to 12\nworkspace-0"},
		{"i3/config", "bindsym --release Super_L exec left\nbindsym --release Super_R exec right\nbindsym " +
			"--release Control_R exec third\n",
			"MetaLeft  = { run = \"left\" }\nMetaRight = { run = \"right\" }\nCtrlRight = { run = \"third\" }", ""},
	} {
		got, err := imports.Files(
			[]imports.Path{{FS: fstest.MapFS{c.name: {Data: []byte(c.text)}}, Name: c.name, Shown: c.name}}, here,
			[]string{"us"},
		)
		require.NoError(t, err, c.name)
		text, left, err := got.Text()
		require.NoError(t, err, c.name)
		assert.Len(t, loaded(t, text).Rules, strings.Count(c.mapping, "\n")+1, "%s", text)
		for _, want := range strings.Split(c.mapping, "\n") {
			assert.Contains(t, string(text), want, c.name)
		}
		for _, want := range strings.Split(c.left, "\n") {
			assert.Contains(t, fmt.Sprint(left), want, c.name)
		}
		if c.left == "" {
			assert.Empty(t, left, c.name)
		}
	}
	// Layouts that nobody knows are told, and the rest is taken over.
	got, err := imports.Files([]imports.Path{{FS: fstest.MapFS{"sway/config": {Data: []byte("input type:keyboard " +
		"{\n  xkb_layout nowhere\n}\nbindsym Mod4+t exec xterm\n")}}, Name: "sway/config", Shown: "sway/config"}}, here, nil)
	require.NoError(t, err)
	text, left, err := got.Text()
	require.NoError(t, err)
	assert.Contains(t, string(text), `keys = { "Meta+t" = { run = "xterm" } }`)
	assert.Contains(t, fmt.Sprint(left), "nowhere")
	_, err = imports.Files(
		[]imports.Path{
			{
				FS: fstest.MapFS{
					"a.plist": {
						Data: []byte(
							`<?xml version="1.0" encoding="UTF-8"?><plist version="1.0"><dict><key>Label</key><string>a</string>` +
								`<key>ProgramArguments</key><array><string>/bin/sh</string><string>-c</string><string>say hello` + "\n" + `/usr/bin/hidutil property --set '{"UserKeyMapping":[]}'</string></array></dict></plist>`,
						),
					},
				},
				Name:  "a.plist",
				Shown: "a.plist",
			},
		},
		here,
		nil,
	)
	assert.ErrorContains(t, err, `"say hello" is no hidutil property command`)
}
