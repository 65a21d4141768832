package shelllink_test

import (
	"encoding/binary"
	"strings"
	"testing"
	"testing/fstest"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/shelllink"
	"leitstand/internal/sample"
)

func folder(files []mechanism.File) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, f := range files {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	return fsys
}

// What is written reads back as what was meant, under layouts that move letters.
func TestReadsWhatItWrites(t *testing.T) {
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€]{0,12}`),
		rapid.SampledFrom([]string{`C:\Program Files\Tide\a.exe`, `%USERPROFILE%\b.exe`, "wt"}))
	rapid.Check(t, func(t *rapid.T) {
		m := machine(rapid.SampledFrom([]string{"us", "de", "fr", "us(dvorak)"}).Draw(t, "layout"))
		list := sample.Launches(t, word, func(b behaviour.Binding) bool {
			return shelllink.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited
		})
		out, err := mechanism.Write(shelllink.Mechanism{}, m, list)
		require.NoError(t, err)
		require.Len(t, out.Files(), len(list))
		got, err := shelllink.Mechanism{}.Read(m, folder(out.Files()))
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
	})
}

// A link is laid out as the open format says, which Wine and exiftool read only in part: how the window is shown, and the
// items that lead to the program. (MS-SHLLINK, 2.1 and 2.2; the items by the public "Windows Shell Item format".)
func TestLinkIsLaidOut(t *testing.T) {
	u16 := func(data []byte, at int) int { return int(binary.LittleEndian.Uint16(data[at:])) }
	u32 := func(data []byte, at int) int { return int(binary.LittleEndian.Uint32(data[at:])) }
	for _, c := range []struct {
		command []string
		show    int
	}{
		{[]string{`C:\Log files\Süderhaff\tidegauge.exe`}, 1}, {[]string{`D:\x.exe`}, 1}, {[]string{"wt", "-d"}, 7},
	} {
		m := machine("us")
		b := sample.Launch(keys.Ctrl|keys.Alt, "KeyG", behaviour.Launch{Command: c.command})
		out, err := mechanism.Write(shelllink.Mechanism{}, m, []mechanism.Binding{b})
		require.NoError(t, err)
		link := out.Files()[0].Data
		assert.Equal(t, 0x4C, u32(link, 0))
		assert.Equal(t, 0x20, u32(link, 0x18), "FILE_ATTRIBUTE_ARCHIVE")
		assert.Equal(t, c.show, u32(link, 0x3C), "shown: 1 normal, 7 minimized")
		list := link[0x4E : 0x4E+u16(link, 0x4C)]
		var items [][]byte
		for ; u16(list, 0) > 0; list = list[u16(list, 0):] {
			items = append(items, list[2:u16(list, 0)])
		}
		assert.Len(t, list, 2, "the end of the list")
		path := strings.Split(c.command[0], `\`)
		if len(path) == 1 {
			path = []string{"C:", "Windows", "System32", "cmd.exe"}
		}
		require.Len(t, items, len(path)+1)
		assert.Equal(t, byte(0x1F), items[0][0], "the computer")
		assert.Equal(t, "\x2F"+path[0]+`\`, string(items[1][:4]), "the drive")
		for i, item := range items[2:] {
			kind, attributes := byte(0x31), 0x10
			if i == len(items)-3 {
				kind, attributes = 0x32, 0x20
			}
			assert.Equal(t, kind, item[0])
			assert.Equal(t, attributes, u16(item, 10))
			begins := u16(item, len(item)-2) - 2 // of the block that has the long name; it counts the item's size
			block := item[begins:]
			assert.Equal(t, len(block), u16(block, 0))
			assert.Equal(t, 3, u16(block, 2))
			assert.Equal(t, 0xBEEF0004, u32(block, 4))
			var long []uint16
			for at := u16(block, 16); u16(block, at) != 0; at += 2 {
				long = append(long, uint16(u16(block, at)))
			}
			assert.Equal(t, path[i+1], string(utf16.Decode(long)))
		}
	}
}

func TestWebAddress(t *testing.T) {
	m := machine("de")
	b := sample.Launch(ctrlAlt, "KeyW", behaviour.Launch{Open: "https://tides.example/süderhaff?q=100%25&x=%&ü"})
	out, err := mechanism.Write(shelllink.Mechanism{}, m, []behaviour.Binding{b})
	require.NoError(t, err)
	assert.Equal(
		t, "[InternetShortcut]\r\nURL=https://tides.example/s%C3%BCderhaff?q=100%25&x=%&%C3%BC\r\nHotKey=1623\r\n",
		string(out.Files()[0].Data),
	)
	got, err := shelllink.Mechanism{}.Read(m, folder(out.Files()))
	require.NoError(t, err)
	assert.Equal(t, []behaviour.Binding{b}, got)
}

func TestTake(t *testing.T) {
	start := behaviour.Launch{Command: []string{`C:\gauge\tidegauge.exe`}}
	for _, c := range []struct {
		layout  string
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{"us", sample.Launch(ctrlAlt, "KeyT", start), mechanism.Limited, "may come forward instead"},
		{"de", sample.Launch(ctrlAlt, "KeyQ", start), mechanism.Limited, "\"@\" can no longer be typed with AltGr"},
		{"us", sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{"wt", "-d", "x"}}), mechanism.Limited, "console window flashes"},
		{"us", sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{"wt", "%PATH%"}}), mechanism.Unavailable, "command interpreter"},
		{"us", sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{`bin\wt`}}), mechanism.Unavailable, "neither"},
		{"us", sample.Launch(keys.Meta, "KeyT", start), mechanism.Unavailable, "not Meta"},
		{"us", sample.Launch(keys.Shift, "KeyT", start), mechanism.Unavailable, "types a character"},
		{"us", sample.Launch(0, "F9", start), mechanism.Limited, ""},
		{"us", sample.Launch(0, "F12", start), mechanism.Unavailable, "the debugger's"},
		{"us", sample.Launch(ctrlAlt, "Comma", start), mechanism.Limited, ""}, {"ru", sample.Launch(ctrlAlt, "KeyA", start), mechanism.Limited, ""},
		{"us", sample.Launch(ctrlAlt, "ArrowLeft", start), mechanism.Limited, "some seconds"},
		{"us", sample.Launch(keys.Shift, "ArrowLeft", start), mechanism.Unavailable, "wants Ctrl or Alt"},
		{"us", sample.Launch(ctrlAlt, "Delete", start), mechanism.Unavailable, "not Delete under"},
	} {
		got := shelllink.Mechanism{}.Take(machine(c.layout), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// What is for everyone goes into the Start menu of all users, where there is an administrator.
func TestEveryone(t *testing.T) {
	b := sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{`C:\gauge\tidegauge.exe`}})
	b.Everyone = true
	m := machine("de")
	require.True(t, shelllink.Mechanism{}.Take(m, b).ForAll)
	out, err := mechanism.Write(
		shelllink.Mechanism{},
		m,
		[]behaviour.Binding{b, sample.Launch(ctrlAlt, "KeyG", b.Effect.Launch())},
	)
	require.NoError(t, err)
	var places []string
	for _, f := range out.Files() {
		places = append(places, f.Goes)
	}
	assert.ElementsMatch(t, []string{
		`%APPDATA%\Microsoft\Windows\Start Menu\Programs\Leitstand\tidegauge (Ctrl+Alt+KeyG).lnk`,
		`%ProgramData%\Microsoft\Windows\Start Menu\Programs\Leitstand\tidegauge (Ctrl+Alt+KeyT).lnk`,
	}, places)
	got, err := shelllink.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Len(t, got, 2)
}

func FuzzReadLink(f *testing.F) {
	m := machine("de")
	out, err := mechanism.Write(shelllink.Mechanism{}, m, []behaviour.Binding{
		sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{`%X%\wt.exe`, "a b"}}),
		sample.Launch(ctrlAlt, "KeyG", behaviour.Launch{Command: []string{`C:\a b\wt.exe`, `\"`}, Dir: `C:\`}),
	})
	require.NoError(f, err)
	for _, file := range out.Files() {
		f.Add(file.Data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = shelllink.Mechanism{}.Read(
			m, fstest.MapFS{"shelllink/a.lnk": {Data: data}, "shelllink/b.url": {Data: data}},
		)
	})
}
