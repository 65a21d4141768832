package host

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"leitstand/core/change"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/layout"
)

// Where Windows has a user's layouts, in their order, those that stand for others, and the libraries of all.
const (
	preload     = `HKEY_CURRENT_USER\Keyboard Layout\Preload:`
	substitutes = `HKEY_CURRENT_USER\Keyboard Layout\Substitutes:`
	ofAll       = `HKEY_LOCAL_MACHINE\SYSTEM\CurrentControlSet\Control\Keyboard Layouts\`
)

// mostLayouts is how many layouts a user may have here.
const mostLayouts = 4

// WindowsLayouts gives a machine with Windows the layouts that its user has, each with the library of the system that
// has it, which lies in the folder system. What cannot be taken over is left out, with the reason.
func WindowsLayouts(m *machine.Machine, get Setting, system fs.FS) (left []mechanism.Left) {
	text := func(key string) string {
		v, err := get(change.Registry, key)
		if s, ok := v.(change.Text); err == nil && ok {
			return string(s)
		}
		return ""
	}
	var names []string
	for i := 1; len(names) < mostLayouts; i++ {
		number := text(fmt.Sprint(preload, i))
		if number == "" {
			break
		}
		if other := text(substitutes + number); other != "" {
			number = other
		}
		name, ok := keys.NamedByWindows(number)
		if !ok {
			if title := text(ofAll + number + ":Layout Text"); !strings.HasPrefix(title, layout.Titled) {
				left = append(left, mechanism.Left{
					Text: strings.TrimSpace("the layout " + number + " " + title), Why: "it is none that we know",
				})
			}
			continue
		}
		if slices.Contains(names, name) {
			continue
		}
		names = append(names, name)
		file := text(ofAll + number + ":Layout File")
		l, data, err := keys.OpenLayout(system, path.Base(strings.ReplaceAll(file, `\`, "/")), name)
		if file == "" || errors.Is(err, fs.ErrNotExist) {
			err = errors.New("its library is not there")
		}
		if err != nil {
			left = append(left, mechanism.Left{
				File: file, Text: "the layout " + name, Why: err.Error() + ": what it types is taken from a list",
			})
			continue
		}
		m.Own = append(m.Own, machine.OwnLayout{Layout: l, File: data})
	}
	if len(names) > 0 {
		m.Layouts = names
	}
	return left
}
