package shelllink

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"net/url"
	"strings"
	"unicode/utf16"

	"golang.org/x/text/encoding/charmap"

	"leitstand/core/change"
	"leitstand/core/mechanism"
)

// Fields of the ShellLinkHeader, [MS-SHLLINK] section 2.1.
const (
	hasIDList      = 0x00000001
	hasLinkInfo    = 0x00000002
	hasName        = 0x00000004
	hasWorkingDir  = 0x00000010
	hasArguments   = 0x00000020
	isUnicode      = 0x00000080
	hasExpString   = 0x00000200
	preferVariable = 0x02000000

	showNormal    = 1
	showMinimized = 7
)

var linkCLSID = []byte{0x01, 0x14, 0x02, 0, 0, 0, 0, 0, 0xC0, 0, 0, 0, 0, 0, 0, 0x46}

// Write makes one link for each binding.
func (Mechanism) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var changes []change.Change
	for _, b := range list {
		c, hotkey := b.Plan.(plan).command, b.Plan.(plan).hotkey
		name := fileName(*b.Binding)
		folder, menu := "shelllink/", `%APPDATA%\Microsoft\Windows\Start Menu\Programs\Leitstand\`
		if b.ForAll {
			folder, menu = "shelllink/everyone/", `%ProgramData%\Microsoft\Windows\Start Menu\Programs\Leitstand\`
		}
		f := change.File{About: change.About{
			Serves: []string{b.Press()}, In: folder + name + ".lnk", Everyone: b.ForAll,
			Says:   "Copy the shortcuts into the Start menu; Explorer looks for their hotkeys there.",
			Unsays: "Delete the shortcuts from the Start menu.",
		}}
		if b.ForAll {
			f.Says, f.Unsays = "As an administrator, copy the shortcuts into the Start menu of all users.",
				"As an administrator, delete the shortcuts from the Start menu of all users."
		}
		if c.url == "" {
			f.Data = link(c, hotkey, "Leitstand: "+b.Chord.String())
		} else {
			f.In = folder + name + ".url"
			f.Data = fmt.Appendf(nil, "[InternetShortcut]\r\nURL=%s\r\nHotKey=%d\r\n", asciiURL(c.url), hotkey)
		}
		f.Path = menu + strings.TrimPrefix(f.In, folder)
		changes = append(changes, f)
	}
	return mechanism.Changed(append(changes, change.Hand{Ends: change.EndsSession})), nil
}

// fileName is the name of a link: what it starts, and the chord, which makes it
// unique.
func fileName(b mechanism.Binding) string {
	l := b.Effect.Launch()
	what := l.Open
	if len(l.Command) > 0 {
		what = l.Command[0]
	}
	what = what[strings.LastIndexAny(strings.TrimRight(what, `\/`), `\/`)+1:]
	// What no file's name has, and what the command prompt or PowerShell acts on within quotes: the steps name the file.
	// PowerShell takes typographic quotes for plain ones. (Microsoft: about_Quoting_Rules.)
	what = strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune("<>:\"/\\|?*%!$`^“”„", r) {
			return '_'
		}
		return r
	}, strings.TrimSuffix(what, ".exe"))
	if r := []rune(what); len(r) > 40 {
		what = string(r[:40])
	}
	return fmt.Sprintf("%s (%s)", strings.Trim(what, " ."), b.Chord)
}

// asciiURL percent-encodes what is not ASCII: the file is read as 8-bit text.
func asciiURL(u string) string {
	var b strings.Builder
	for _, r := range u {
		if r < 0x80 {
			b.WriteRune(r)
		} else {
			b.WriteString(url.PathEscape(string(r)))
		}
	}
	return b.String()
}

func link(c command, hotkey uint16, name string) []byte {
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) } // a Buffer's writes cannot fail
	flags := uint32(hasName | isUnicode)
	variable := variablePath(c.program)
	if variable {
		flags |= hasExpString | preferVariable
	} else {
		flags |= hasIDList | hasLinkInfo
	}
	if c.dir != "" {
		flags |= hasWorkingDir
	}
	if c.arguments != "" {
		flags |= hasArguments
	}
	show := uint32(showNormal)
	if c.console {
		show = showMinimized
	}
	le(uint32(0x4C))
	b.Write(linkCLSID)
	le(flags)
	le(uint32(0x20))          // FILE_ATTRIBUTE_ARCHIVE
	b.Write(make([]byte, 24)) // no times: the same mapping gives the same bytes
	le(uint32(0))             // file size
	le(int32(0))              // icon index
	le(show)
	le(hotkey)
	b.Write(make([]byte, 10))
	if !variable {
		ids := idList(c.program)
		le(uint16(len(ids)))
		b.Write(ids)
		b.Write(linkInfo(c.program))
	}
	for _, s := range []string{name, c.dir, c.arguments} {
		if s != "" {
			u := utf16.Encode([]rune(s))
			le(uint16(len(u)))
			le(u)
		}
	}
	if variable {
		b.Write(variableBlock(c.program))
	}
	le(uint32(0)) // terminal block
	return b.Bytes()
}

// idList is the shell's own path to a file: this computer, the drive, and an
// item for each folder and for the file.
func idList(path string) []byte {
	var b bytes.Buffer
	item := func(data []byte) {
		_ = binary.Write(&b, binary.LittleEndian, uint16(len(data)+2))
		b.Write(data)
	}
	item(
		[]byte{
			0x1F,
			0x50,
			0xE0,
			0x4F,
			0xD0,
			0x20,
			0xEA,
			0x3A,
			0x69,
			0x10,
			0xA2,
			0xD8,
			0x08,
			0x00,
			0x2B,
			0x30,
			0x30,
			0x9D,
		},
	)
	drive := make([]byte, 23)
	drive[0] = 0x2F
	copy(drive[1:], path[:3])
	item(drive)
	parts := strings.Split(strings.Trim(path[3:], `\`), `\`)
	for i, p := range parts {
		item(fileItem(p, i == len(parts)-1))
	}
	b.Write([]byte{0, 0})
	return b.Bytes()
}

// fileItem names a folder or file twice: in 8-bit text, where what is not ASCII
// cannot be said, and in an extension block in UTF-16.
func fileItem(name string, file bool) []byte {
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) }
	kind, attributes := byte(0x31), uint16(0x10)
	if file {
		kind, attributes = 0x32, 0x20
	}
	b.Write([]byte{kind, 0})
	le(uint32(0)) // size
	le(uint32(0)) // modified
	le(attributes)
	b.Write(ansi(name))
	b.WriteByte(0)
	if b.Len()%2 != 0 {
		b.WriteByte(0)
	}
	offset := uint16(b.Len() + 2)
	long := append(utf16.Encode([]rune(name)), 0)
	le(uint16(2 + 2 + 4 + 4 + 4 + 2 + 2 + 2*len(long) + 2))
	le(uint16(3)) // version of the extension block
	le(uint32(0xBEEF0004))
	le(uint32(0)) // created
	le(uint32(0)) // accessed
	le(uint16(0x14))
	le(uint16(0)) // no localized name
	le(long)
	le(offset)
	return b.Bytes()
}

// ansi is text in the 8-bit code page of western Windows, for readers that look
// at nothing else; what it lacks is an underscore there.
func ansi(s string) []byte {
	out := make([]byte, 0, len(s))
	for _, r := range s {
		c, ok := charmap.Windows1252.EncodeRune(r)
		if !ok {
			c = '_'
		}
		out = append(out, c)
	}
	return out
}

// linkInfo is the plain path, in 8-bit text and in UTF-16, [MS-SHLLINK] 2.3.
func linkInfo(path string) []byte {
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) }
	const headerSize, volumeSize = 0x24, 0x11
	base := append(ansi(path), 0)
	wide := append(utf16.Encode([]rune(path)), 0)
	baseAt := headerSize + volumeSize
	suffixAt := baseAt + len(base)
	wideAt := suffixAt + 1
	wideSuffixAt := wideAt + 2*len(wide)
	for _, v := range []int{wideSuffixAt + 2, headerSize, 1, headerSize, baseAt, 0, suffixAt, wideAt, wideSuffixAt} {
		le(uint32(v))
	}
	le(uint32(volumeSize))
	le(uint32(3)) // a fixed drive
	le(uint32(0)) // serial number
	le(uint32(0x10))
	b.WriteByte(0) // no volume label
	b.Write(base)
	b.WriteByte(0)
	le(wide)
	le(uint16(0))
	return b.Bytes()
}

// variableBlock is the path with its variable, [MS-SHLLINK] 2.5.4.
func variableBlock(path string) []byte {
	block := make([]byte, 0x314)
	binary.LittleEndian.PutUint32(block, 0x314)
	binary.LittleEndian.PutUint32(block[4:], 0xA0000001)
	copy(block[8:8+259], ansi(path))
	for i, u := range utf16.Encode([]rune(path)) {
		if i < 259 {
			binary.LittleEndian.PutUint16(block[268+2*i:], u)
		}
	}
	return block
}
