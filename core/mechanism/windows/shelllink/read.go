package shelllink

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"path"
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/form/keyfile"
)

// Read reads every link of the user's own, and of all users.
func (Mechanism) Read(m *mechanism.Machine, fsys fs.FS) ([]mechanism.Binding, error) {
	own, err := links(m, fsys, "shelllink")
	if err != nil {
		return nil, err
	}
	all, err := links(m, fsys, "shelllink/everyone")
	list := slices.Concat(own, all)
	behaviour.Sort(list)
	return list, err
}

// links reads every link in a folder.
func links(m *mechanism.Machine, fsys fs.FS, folder string) ([]mechanism.Binding, error) {
	entries, err := fs.ReadDir(fsys, folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	var list []mechanism.Binding
	for _, e := range entries {
		if e.IsDir() {
			continue
		}
		name := path.Join(folder, e.Name())
		data, err := fs.ReadFile(fsys, name)
		if err != nil {
			return nil, err
		}
		var b mechanism.Binding
		switch strings.ToLower(path.Ext(name)) {
		case ".lnk":
			b, err = readLink(m, data)
		case ".url":
			b, err = readURL(m, string(data))
		default:
			continue
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		list = append(list, b)
	}
	return list, nil
}

// errNoHotkey says that a link is not for the keyboard.
var errNoHotkey = errors.New("the link has no hotkey")

// chordOf turns a hotkey word into a chord of the machine's layout.
func chordOf(m *mechanism.Machine, hotkey uint16) (keys.Chord, error) {
	var c keys.Chord
	if hotkey == 0 {
		return c, errNoHotkey
	}
	if hotkey>>8&^0xF != 0 || hotkey&0xFF == 0 {
		return c, fmt.Errorf("%04X is no hotkey", hotkey)
	}
	for bit, mod := range map[uint16]keys.Mods{0x100: keys.Shift, 0x200: keys.Ctrl, 0x400: keys.Alt} {
		if hotkey&bit != 0 {
			c.Mods |= mod
		}
	}
	code := byte(hotkey)
	pad := []keys.Section{keys.ControlPad, keys.ArrowPad} // the keys beside the writing area
	for _, k := range keys.All() {
		vk, ok := m.Layouts[0].VirtualCode(k)
		if ok && vk == code && (hotkey&0x800 != 0) == slices.Contains(pad, k.Section()) {
			c.Key = k
			return c, nil
		}
	}
	return c, fmt.Errorf("no key has the virtual key %02X", code)
}

func readURL(m *mechanism.Machine, text string) (mechanism.Binding, error) {
	entries := keyfile.Keys(text)
	field := func(name string) string { return entries[[2]string{"InternetShortcut", name}] }
	if field("HotKey") == "" {
		return mechanism.Binding{}, errNoHotkey
	}
	n, err := strconv.ParseUint(field("HotKey"), 10, 16)
	if err != nil {
		return mechanism.Binding{}, errors.New("no HotKey in decimal")
	}
	c, err := chordOf(m, uint16(n))
	if err != nil {
		return mechanism.Binding{}, err
	}
	address := field("URL")
	if address == "" {
		return mechanism.Binding{}, errors.New("no URL")
	}
	opens := behaviour.Launching(behaviour.Launch{Open: unescapeUnicode(address)})
	return mechanism.Binding{Level: behaviour.Hotkey, Chord: c, Effect: opens}, nil
}

// unescapeUnicode undoes the percent-encoding of what is not ASCII, and leaves
// alone what the address itself encodes.
func unescapeUnicode(address string) string {
	var b strings.Builder
	for i := 0; i < len(address); {
		j := i
		for j+2 < len(address) && address[j] == '%' && strings.ContainsRune("89ABCDEFabcdef", rune(address[j+1])) {
			j += 3
		}
		if run, err := url.PathUnescape(address[i:j]); j > i && err == nil {
			b.WriteString(run)
			i = j
			continue
		}
		b.WriteByte(address[i])
		i++
	}
	return b.String()
}

// cursor reads little-endian fields and remembers running out of bytes.
type cursor struct {
	data  []byte
	short bool
}

func (c *cursor) take(n int) []byte {
	if n < 0 || n > len(c.data) {
		c.short = true
		return make([]byte, max(n, 0)&0xFFFF)
	}
	part := c.data[:n]
	c.data = c.data[n:]
	return part
}

func (c *cursor) u16() int { return int(binary.LittleEndian.Uint16(c.take(2))) }
func (c *cursor) u32() int { return int(binary.LittleEndian.Uint32(c.take(4))) }

// str reads a counted UTF-16 string.
func (c *cursor) str() string {
	raw := c.take(2 * c.u16())
	u := make([]uint16, len(raw)/2)
	for i := range u {
		u[i] = binary.LittleEndian.Uint16(raw[2*i:])
	}
	return string(utf16.Decode(u))
}

func readLink(m *mechanism.Machine, data []byte) (mechanism.Binding, error) {
	c := &cursor{data: data}
	var b mechanism.Binding
	if c.u32() != 0x4C || string(c.take(16)) != "\x01\x14\x02\x00\x00\x00\x00\x00\xC0\x00\x00\x00\x00\x00\x00\x46" {
		return b, errors.New("not a shell link")
	}
	flags := c.u32()
	c.take(4 + 24 + 4 + 4 + 4)
	hotkey := uint16(c.u16())
	c.take(10)
	program := ""
	if flags&0x1 != 0 {
		c.take(c.u16())
	}
	if flags&0x2 != 0 {
		info := &cursor{data: c.data}
		size := info.u32()
		whole := c.take(size)
		if header := info.u32(); header >= 0x24 && !c.short {
			info.take(4 * 5)
			program = wideString(whole, info.u32())
		}
	}
	var texts [5]string // name, relative path, folder, arguments, icon
	for i := range texts {
		if flags&(4<<i) != 0 {
			texts[i] = c.str()
		}
	}
	for !c.short {
		size := c.u32()
		if size < 8 {
			break
		}
		block := c.take(size - 4)
		if len(block) >= 0x310 && binary.LittleEndian.Uint32(block) == 0xA0000001 && flags&0x200 != 0 {
			program = wideString(block, 264)
		}
	}
	if c.short {
		return b, errors.New("the file ends too early")
	}
	if program == "" {
		return b, errors.New("the link names no program")
	}
	chord, err := chordOf(m, hotkey)
	if err != nil {
		return b, err
	}
	words := splitArguments(texts[3])
	if strings.EqualFold(program, `C:\Windows\System32\cmd.exe`) && len(words) > 4 && words[0] == "/d" &&
		words[1] == "/c" &&
		words[2] == "start" &&
		words[3] == "" {
		program, words = words[4], words[5:]
	}
	l := behaviour.Launch{Command: append([]string{program}, words...), Dir: texts[2]}
	return mechanism.Binding{
		Level:  behaviour.Hotkey,
		Chord:  chord,
		Effect: behaviour.Launching(l),
	}, nil
}

// wideString reads UTF-16 from an offset to its zero.
func wideString(data []byte, at int) string {
	var u []uint16
	for i := at; i >= 0 && i+1 < len(data); i += 2 {
		v := binary.LittleEndian.Uint16(data[i:])
		if v == 0 {
			break
		}
		u = append(u, v)
	}
	return string(utf16.Decode(u))
}

// splitArguments parts a command line as the C run-time does.
func splitArguments(line string) []string {
	var words []string
	var word strings.Builder
	in, quoted := false, false
	for i := 0; i < len(line); i++ {
		slashes := 0
		for i < len(line) && line[i] == '\\' {
			slashes++
			i++
		}
		if i < len(line) && line[i] == '"' {
			word.WriteString(strings.Repeat(`\`, slashes/2))
			in = true
			if slashes%2 != 0 {
				word.WriteByte('"')
			} else {
				quoted = !quoted
			}
			continue
		}
		if slashes > 0 {
			word.WriteString(strings.Repeat(`\`, slashes))
			in = true
		}
		if i == len(line) {
			break
		}
		if (line[i] == ' ' || line[i] == '\t') && !quoted {
			if in {
				words = append(words, word.String())
				word.Reset()
				in = false
			}
			continue
		}
		word.WriteByte(line[i])
		in = true
	}
	if in {
		words = append(words, word.String())
	}
	return words
}
