package change

import (
	"path"
	"slices"
	"strings"
)

// Step is one line of what a person does, and the commands that belong to it.
type Step struct {
	Text  string
	Lines []string // shown as code
}

// Steps are what a person does, in a POSIX shell in the machine's folder, to make the changes,
// and to take them back: what the machine had is saved before it is changed.
func Steps(changes []Change) (forth, back []Step) {
	var told []Step
	for i := 0; i < len(changes); {
		n := i + 1
		for n < len(changes) && together(changes[i], changes[n]) {
			n++
		}
		f, b := steps(changes[i:n])
		forth = append(forth, f...)
		if _, call := changes[i].(Call); call { // who was told of the changes must be told when they are taken back
			told = append(told, b...)
		} else {
			back = append(b, back...)
		}
		i = n
	}
	return forth, append(back, told...)
}

// together says whether two changes are one step.
func together(a, b Change) bool {
	switch a := a.(type) {
	case Setting:
		o, ok := b.(Setting)
		return ok && a.Store == o.Store && a.In == o.In && (a.Store == Dconf || a.Says == o.Says)
	case File:
		o, ok := b.(File)
		return ok && a.Says != "" && a.Says == o.Says && a.Everyone == o.Everyone
	case Member:
		o, ok := b.(Member)
		return ok && a.Store == o.Store && a.Key == o.Key
	}
	return false
}

func steps(group []Change) (forth, back []Step) {
	about := group[0].Note()
	var do, undo []string
	switch c := group[0].(type) {
	case File:
		do, undo = files(group)
	case Line:
		if c.From != "" {
			do = []string{"test -e " + c.Path + " || cp " + c.From + " " + c.Path}
		}
		// A last line may have no end.
		do = append(do, "grep -qxF '"+c.Text+"' "+c.Path+` || { [ -z "$(tail -c 1 `+c.Path+`)" ] || echo >> `+c.Path+"; echo '"+c.Text+"' >> "+c.Path+"; }")
		undo = []string{`sed -i --follow-symlinks '\|^` + c.Text + `$|d' ` + c.Path}
	case Setting:
		do, undo = map[string]func([]Change) ([]string, []string){
			Dconf: settings, Xfconf: properties, KDE: kdeSettings, Keeper: shortcuts,
		}[c.Store](group)
		if len(do) == 0 { // nothing that a running machine lacks
			return nil, nil
		}
	case Member:
		do, undo = members(group)
	case Call:
		do, undo = []string{strings.Join(c.Do, " ")}, []string{strings.Join(c.Undo, " ")}
		if c.Undo == nil {
			undo = nil
		}
	}
	if undo != nil {
		back = []Step{{Text: about.Unsays, Lines: undo}}
	}
	return []Step{{Text: about.Says, Lines: do}}, back
}

// files copies files into their folders, those that keep their names in one go.
func files(group []Change) (do, undo []string) {
	sudo := ""
	if group[0].Note().Everyone {
		sudo = "sudo "
	}
	var dirs []string
	from, gone := map[string][]string{}, sudo+"rm -f"
	for _, c := range group {
		c := c.(File)
		gone += " " + c.Path
		dir := path.Dir(c.Path)
		if path.Base(c.In) != path.Base(c.Path) {
			do = append(do, sudo+"mkdir -p "+dir+" && "+sudo+"cp "+c.In+" "+c.Path)
			continue
		}
		if from[dir] == nil {
			dirs = append(dirs, dir)
		}
		from[dir] = append(from[dir], c.In)
	}
	for _, dir := range dirs {
		to := dir + "/"
		if len(from[dir]) == 1 {
			to += path.Base(from[dir][0])
		}
		do = append(do, sudo+"mkdir -p "+dir+" && "+sudo+"cp "+strings.Join(from[dir], " ")+" "+to)
	}
	return do, []string{gone}
}

// saved has in $saved the file that keeps what dconf's keys had.
func saved(in string) string {
	name := strings.TrimSuffix(path.Base(in), path.Ext(in))
	return `saved=${XDG_STATE_HOME:-$HOME/.local/state}/leitstand/` + name + `.dconf`
}

// settings loads a keyfile, and saves what each key had, once; those in folders of ours had
// nothing.
func settings(group []Change) (do, undo []string) {
	in := group[0].Note().In
	var theirs, ours []string
	for _, c := range group {
		key := c.(Setting).Key
		if dir := path.Dir(key); strings.HasPrefix(path.Base(dir), "leitstand") {
			if ours = append(ours, "dconf reset -f "+dir+"/"); len(ours) > 1 && ours[len(ours)-2] == ours[len(ours)-1] {
				ours = ours[:len(ours)-1]
			}
			continue
		}
		theirs = append(theirs, key)
	}
	slices.Sort(ours)
	ours = slices.Compact(ours)
	if len(theirs) > 0 {
		do = []string{saved(in), `mkdir -p "${saved%/*}" && touch "$saved"`,
			"for key in " + strings.Join(theirs, " \\\n  ") + `; do grep -q "^$key " "$saved" || printf '%s %s\n' "$key" "$(dconf read $key)" >> "$saved"; done`}
		// What was never saved was never set.
		undo = []string{saved(in), "for key in " + strings.Join(theirs, " \\\n  ") + `; do if grep -q "^$key " "$saved"; then value=$(sed -n "s|^$key ||p" "$saved"); ` +
			`if [ -n "$value" ]; then dconf write $key "$value"; else dconf reset $key; fi; sed -i "\|^$key |d" "$saved"; fi; done`}
	}
	return append(do, "dconf load / < "+in), append(undo, ours...)
}

// members puts items into a list beside those of others.
func members(group []Change) (do, undo []string) {
	first := group[0].(Member)
	var items []string
	for _, c := range group {
		items = append(items, quote(c.(Member).Item))
	}
	others := "key=" + first.Key + "\n" +
		`old=$(dconf read $key | sed "s/^@as //; s/'[^']*leitstand[0-9][^']*'//g; s/^\[//; s/\]$//; s/, *\(, *\)*/, /g; s/^[, ]*//; s/[, ]*$//")`
	do = []string{others, `dconf write $key "[${old:+$old, }` + strings.Join(items, ", ") + `]"`}
	undo = []string{others, `if [ -n "$old" ]; then dconf write $key "[$old]"; else dconf reset $key; fi`}
	return do, undo
}
