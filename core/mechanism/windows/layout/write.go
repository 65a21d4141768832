package layout

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"strings"

	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/keys/library"
	"leitstand/core/mechanism"
)

// processors are those that a library is built for, by the names that Windows has in PROCESSOR_ARCHITECTURE.
var processors = []struct {
	name string
	is   library.Machine
}{{"AMD64", library.AMD64}, {"ARM64", library.ARM64}}

// Write makes a library for each of the machine's layouts.
func (Mechanism) Write(m *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	if len(list) == 0 {
		return mechanism.Output{}, nil
	}
	serves := mechanism.Presses(list)
	var changes []change.Change
	var titles []string
	for i, l := range m.Layouts {
		of, err := changesOf(m, l, i, list)
		if err != nil {
			return mechanism.Output{}, fmt.Errorf("layout: %w", err)
		}
		changes, titles = append(changes, of...), append(titles, "**"+title(l)+"**")
	}
	all := strings.Join(titles, " and ")
	return mechanism.Changed(append(changes, change.Hand{Ends: change.EndsSession, InTurn: true, About: change.About{
		Serves: serves,
		Says: "In Settings, Time & language, **Language & region**, open the options of your language, add the " +
			"keyboard " + all + " beside yours, and choose it by Meta+Space or by the pointer in the task bar: so you come back " +
			"to your own as well.",
		Unsays: "In Settings, Time & language, **Language & region**, take the keyboard " + all + " out, by the pointer if " +
			"keys do not type; then sign out and in.",
	}})), nil
}

// changesOf are those for one of the machine's layouts: its files, one of them among the system's, and its name
// in the registry.
func changesOf(
	m *mechanism.Machine, l *keys.Layout, at int, list []mechanism.Taken,
) (changes []change.Change, err error) {
	serves := mechanism.Presses(list)
	built, err := build(m, l, list)
	if err != nil {
		return nil, err
	}
	name := nameOf(l)
	for _, p := range processors {
		changes = append(changes, change.File{
			About: change.About{
				Serves: serves, In: "layout/" + name + "/" + p.name + ".dll", Everyone: true,
				Says: "As an administrator, copy the layout libraries.", Unsays: "As an administrator, delete them.",
			},
			Path: `%ProgramData%\Leitstand\` + name + `\` + p.name + ".dll", Data: built[p.is],
		})
	}
	installed, number := identityOf(built[library.AMD64], l, at)
	ours, in := `"%ProgramData%\Leitstand\`+name+`\%PROCESSOR_ARCHITECTURE%.dll"`, `"%SystemRoot%\System32\`+installed+`.dll"`
	changes = append(changes, change.Call{
		About: change.About{
			Serves: serves, Everyone: true, In: installed + ".dll",
			Says:   "As an administrator, put the one for this processor among the system's.",
			Unsays: "As an administrator, delete it.",
		},
		Do:     []string{"cmd", "/c", "copy /y " + ours + " " + in},
		Undo:   []string{"cmd", "/c", "del " + in},
		InTurn: true,
		Holds:  "fc /b " + ours + " " + in + " >nul 2>nul",
	})
	key := `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Keyboard Layouts\` + fmt.Sprintf(
		"a%03x%s",
		number%0x1000,
		language(l),
	)
	for _, v := range [][2]string{
		{"Layout File", installed + ".dll"}, {"Layout Id", fmt.Sprintf("%04x", 0xC0+number%0xF00)}, {"Layout Text", title(l)},
	} {
		changes = append(changes, change.Setting{
			About: change.About{
				Serves: serves, In: "layout/" + name + ".reg", Everyone: true,
				Says: "As an administrator, name the layout in the registry.", Unsays: "As an administrator, take it out of the registry.",
			},
			Store: change.Registry, Key: key + ":" + v[0], To: change.Text(v[1]),
		})
	}
	return changes, nil
}

// build is the library for each processor. What is built is read again: what our own reader cannot walk is
// none.
func build(m *mechanism.Machine, l *keys.Layout, list []mechanism.Taken) (map[library.Machine][]byte, error) {
	tables, built := makeTables(m, l, list), map[library.Machine][]byte{}
	for _, p := range processors {
		file, err := tables.Build(p.is)
		if err == nil {
			_, _, err = library.Open(file)
		}
		if err != nil {
			return nil, err
		}
		built[p.is] = file
	}
	return built, nil
}

// nameOf is a layout's name as that of a file.
func nameOf(l *keys.Layout) string { return strings.NewReplacer("(", "-", ")", "").Replace(l.Name) }

// Titled is how the names begin by which Windows calls our layouts.
const Titled = "Leitstand "

// title is what Windows calls our layout.
func title(l *keys.Layout) string { return Titled + l.Name }

// language is that of a layout, four digits.
func language(l *keys.Layout) string {
	if len(l.SystemName) == 8 {
		return l.SystemName[4:]
	}
	return "0409"
}

// identityOf is the name of a library among the system's, and a number: others for each build, since a loaded
// one cannot be replaced.
func identityOf(file []byte, l *keys.Layout, at int) (name string, number int) {
	sum := sha256.Sum256(append(file, l.Name...))
	return fmt.Sprintf("ls%x", sum[:3]), int(binary.BigEndian.Uint16(sum[3:])) + at
}
