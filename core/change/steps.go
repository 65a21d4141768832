package change

import (
	"path"
	"slices"
	"strings"
)

// Step is one line of what a person does, and the commands that belong to it.
type Step struct {
	Text     string
	Lines    []string // shown as code
	Everyone bool     // it needs an administrator
	Ends     Ending   // what must end before
	Ending   bool     // that it ends is all that is to be done
}

// Steps are what a person does, in the shell of the system and in the machine's folder, to make
// the changes, and to take them back: what the machine had is saved before it is changed. What
// is said alike is one step.
func Steps(changes []Change) (forth, back []Step) {
	var told []Step // who was told of the changes must be told when they are taken back
	for i := 0; i < len(changes); {
		n := i + 1
		for n < len(changes) && together(changes[i], changes[n]) {
			n++
		}
		do, undo := lines(changes[i:n])
		about := changes[i].Note()
		call, isCall := changes[i].(Call)
		hand, byHand := changes[i].(Hand)
		if ends := (Step{Text: hand.Ends.String(), Ends: hand.Ends, Ending: true}); byHand && about.Says == "" {
			forth, told = append(forth, ends), append(told, ends)
			i = n
			continue
		}
		forth = append(forth, Step{Text: about.Says, Lines: do, Everyone: about.Everyone, Ends: hand.Ends})
		switch undone := (Step{Text: about.Unsays, Lines: undo, Everyone: about.Everyone}); {
		case byHand && !hand.InTurn || isCall && !call.InTurn:
			told = append(told, undone)
		default:
			back = append(back, undone)
		}
		i = n
	}
	slices.Reverse(back)
	return joined(forth), joined(append(back, told...))
}

// joined makes one of steps that say the same, one behind the other; a step without words and
// lines is none.
func joined(all []Step) (list []Step) {
	for _, s := range all {
		switch last := len(list) - 1; {
		case s.Text == "" && s.Lines == nil:
		case last >= 0 && list[last].Text == s.Text:
			for _, line := range s.Lines {
				tool := strings.Contains(line, "() {") || strings.HasPrefix(line, "saved=") ||
					strings.HasPrefix(line, "kde=")
				if !tool || !slices.Contains(list[last].Lines, line) {
					list[last].Lines = append(list[last].Lines, line)
				}
			}
		default:
			list = append(list, s)
		}
	}
	return list
}

// together says whether two changes have their lines together.
func together(a, b Change) bool {
	switch a := a.(type) {
	case Setting:
		o, ok := b.(Setting)
		return ok && a.Store == o.Store && a.In == o.In && (a.Store == Dconf || a.Says == o.Says)
	case Member:
		o, ok := b.(Member)
		return ok && a.Store == o.Store && a.Key == o.Key
	case File:
		o, ok := b.(File)
		return ok && a.Says == o.Says && a.Everyone == o.Everyone
	default: // the others have lines of their own
	}
	return false
}

// lines are what is entered to make changes, and to take them back.
func lines(group []Change) (do, undo []string) {
	sudo := ""
	if group[0].Note().Everyone {
		sudo = "sudo "
	}
	switch c := group[0].(type) {
	case File:
		return files(group)
	case Line:
		return c.lines(sudo)
	case Block:
		return c.lines(sudo)
	case Setting:
		return map[string]func([]Change) ([]string, []string){
			Dconf: settings, Xfconf: properties, KDE: kdeSettings, Keeper: shortcuts, Registry: registry,
			Defaults: defaults,
		}[c.Store](group)
	case Member:
		return members(group)
	case Call:
		return spoken(sudo, c.Do), spoken(sudo, c.Undo)
	case Hand:
		return c.Lines, nil
	}
	return nil, nil
}

// lines put a line at the end of a file, note that it is ours, and take it out if it is.
func (c Line) lines(sudo string) (do, undo []string) {
	made, at := "made "+c.Path, homed(c.Path)
	do = []string{savedLines}
	if sudo != "" || c.From != "" {
		do = append(do, sudo+"mkdir -p "+homed(path.Dir(c.Path)))
	}
	begin, same := "", "! [ -s "+at+" ]"
	if c.From != "" {
		begin, same = sudo+"cp "+ShellWord(c.From)+" "+at+" && ", "cmp -s "+ShellWord(c.From)+" "+at
	}
	do = append(do, "test -e "+at+" || { "+begin+"echo "+ShellWord(made)+` >> "$saved"; }`)
	end := " >> " + at
	if sudo != "" {
		end = " | sudo tee -a " + at + " > /dev/null"
	}
	text, note := ShellWord(c.Text), c.Path+" "+c.Text
	do = append(do,
		"grep -qxF "+text+" "+at+" 2> /dev/null || {",
		`  [ -z "$(tail -c 1 `+at+` 2> /dev/null)" ] || echo`+end, // a last line may have no end
		"  echo "+text+end+"; echo "+ShellWord(note)+` >> "$saved"`,
		"}")
	undo = []string{savedLines,
		"if grep -qxF " + ShellWord(note) + ` "$saved"; then`,
		"  " + sudo + "sed -i --follow-symlinks " + ShellWord("/^"+pattern.Replace(c.Text)+"$/d") + " " + at,
		"  sed -i " + ShellWord("/^"+pattern.Replace(note)+"$/d") + ` "$saved"`,
		// A file that was made for it goes, when it has nothing else.
		"  if grep -qxF " + ShellWord(
			made,
		) + ` "$saved" && ` + same + "; then " + sudo + "rm " + at + "; sed -i " + ShellWord(
			"/^"+pattern.Replace(made)+"$/d",
		) + ` "$saved"; fi`,
		"fi"}
	return do, undo
}

// lines put a block at the end of a file in the place of a former one, and take it out; a file
// that was made for it goes, if it has nothing else.
func (c Block) lines(sudo string) (do, undo []string) {
	file := homed(c.Path)
	at := "/^" + pattern.Replace(c.Begins) + "/,/^" + pattern.Replace(c.Ends) + "/"
	append := " >> " + file
	if sudo != "" {
		append = " | sudo tee -a " + file + " > /dev/null"
	}
	without := sudo + "sed -i --follow-symlinks -e " + ShellWord(at+"d")
	folder := ""
	if dir := path.Dir(c.Path); dir != "~" {
		folder = sudo + "mkdir -p " + homed(dir) + " && "
	}
	made := ShellWord("made " + c.Path)
	do = []string{
		savedLines,
		"if [ -e " + file + " ]; then",
		"  " + without + ` -e '$a\' ` + file,
		"  sed -n " + ShellWord(at+"p") + " " + ShellWord(c.In) + append,
		"else " + folder + sudo + "cp " + ShellWord(c.In) + " " + file + "; echo " + made + ` >> "$saved"; fi`,
	}
	return do, []string{
		savedLines,
		"if [ -e " + file + " ]; then " + without + " " + file + "; fi",
		"if grep -qxF " + made + ` "$saved" && sed ` + ShellWord(
			at+"d",
		) + " " + ShellWord(c.In) + " | cmp -s - " + file + "; then " + sudo + "rm " + file + "; fi",
		"sed -i " + ShellWord("/^"+pattern.Replace("made "+c.Path)+"$/d") + ` "$saved"`,
	}
}

// savedLines has in $saved the file that keeps which lines and files are ours.
const savedLines = `saved=${XDG_STATE_HOME:-$HOME/.local/state}/leitstand/lines; mkdir -p "${saved%/*}" && touch "$saved"`

// pattern makes a basic regular expression that means the text, in slashes or bars.
var pattern = strings.NewReplacer(
	`\`,
	`\\`,
	`.`,
	`\.`,
	`*`,
	`\*`,
	`[`,
	`\[`,
	`|`,
	`\|`,
	`/`,
	`\/`,
	`$`,
	`\$`,
	`^`,
	`\^`,
)

// spoken is a call as a line of shell, or of Windows' command interpreter, which an administrator opens as such.
func spoken(sudo string, words []string) []string {
	if words == nil {
		return nil
	}
	if words[0] == "cmd" {
		return []string{strings.Join(words, " ")}
	}
	if words[0] == "sh" && words[1] == "-c" {
		if sudo != "" && !strings.Contains(words[2], sudo) { // else it names what needs it, so that the rest is the user's
			return []string{sudo + "sh -c " + ShellWord(words[2])}
		}
		return []string{words[2]}
	}
	said := make([]string, len(words))
	for i, w := range words {
		said[i] = homed(w)
	}
	return []string{sudo + strings.Join(said, " ")}
}

// files copies files into their folders, those that keep their names in one go.
func files(group []Change) (do, undo []string) {
	if strings.Contains(group[0].(File).Path, `\`) {
		return filesOfWindows(group)
	}
	sudo := ""
	if group[0].Note().Everyone {
		sudo = "sudo "
	}
	var dirs []string
	from, names, gone := map[string][]string{}, map[string]string{}, sudo+"rm -f"
	for _, c := range group {
		c := c.(File)
		gone += " " + homed(c.Path)
		dir := path.Dir(c.Path)
		if path.Base(c.In) != path.Base(c.Path) {
			do = append(do, sudo+"mkdir -p "+homed(dir)+" && "+sudo+"cp "+ShellWord(c.In)+" "+homed(c.Path))
			continue
		}
		if from[dir] == nil {
			dirs = append(dirs, dir)
		}
		names[dir] = path.Base(c.In)
		from[dir] = append(from[dir], ShellWord(c.In))
	}
	for _, dir := range dirs {
		to := dir + "/"
		if len(from[dir]) == 1 {
			to += names[dir]
		}
		do = append(do, sudo+"mkdir -p "+homed(dir)+" && "+sudo+"cp "+strings.Join(from[dir], " ")+" "+homed(to))
	}
	return do, []string{gone}
}

// saved has in $saved the file that keeps what dconf's keys had.
func saved(in string) string {
	name := strings.TrimSuffix(path.Base(in), path.Ext(in))
	return `saved=${XDG_STATE_HOME:-$HOME/.local/state}/leitstand/` + ShellWord(name) + `.dconf`
}

// settings loads a keyfile, and saves what each key had, once; those in folders of ours had
// nothing.
func settings(group []Change) (do, undo []string) {
	in := group[0].Note().In
	var theirs, ours []string
	for _, c := range group {
		key := c.(Setting).Key
		if dir := path.Dir(key); strings.HasPrefix(path.Base(dir), "leitstand") {
			if ours = append(ours, ShellLine("dconf", "reset", "-f", dir+"/")); len(ours) > 1 && ours[len(ours)-2] == ours[len(ours)-1] {
				ours = ours[:len(ours)-1]
			}
			continue
		}
		theirs = append(theirs, ShellWord(key))
	}
	slices.Sort(ours)
	ours = slices.Compact(ours)
	if len(theirs) > 0 {
		do = []string{saved(in), `mkdir -p "${saved%/*}" && touch "$saved"`,
			"for key in " + strings.Join(
				theirs,
				" \\\n  ",
			) + `; do grep -q "^$key " "$saved" || printf '%s %s\n' "$key" "$(dconf read "$key")" >> "$saved"; done`}
		// What was never saved was never set.
		undo = []string{
			saved(in),
			"for key in " + strings.Join(
				theirs,
				" \\\n  ",
			) + `; do if grep -q "^$key " "$saved" 2> /dev/null; then value=$(sed -n "s|^$key ||p" "$saved"); ` +
				`if [ -n "$value" ]; then dconf write "$key" "$value"; else dconf reset "$key"; fi; sed -i "\|^$key |d" "$saved"; fi; done`,
		}
	}
	return append(do, "dconf load / < "+ShellWord(in)), append(undo, ours...)
}

// members puts items into a list beside those of others, and saves what it was, once. Taken back
// it is that, if nobody else has changed it since; else the items are taken out.
func members(group []Change) (do, undo []string) {
	first := group[0].(Member)
	if first.Store == KDE {
		return kdeMembers(group)
	}
	var items, ours []string
	for _, c := range group {
		item := quote(c.(Member).Item)
		items = append(items, item)
		if strings.Contains(item, "leitstand") &&
			strings.ContainsAny(item, "0123456789") { // of another number the last time
			item = "'[^']*leitstand[0-9][^']*'"
		} else {
			item = pattern.Replace(item)
		}
		if !slices.Contains(ours, "s/"+item+"//g; ") {
			ours = append(ours, "s/"+item+"//g; ")
		}
	}
	tools := []string{saved(first.In), "key=" + ShellWord(first.Key),
		`others() { echo "$1" | sed "s/^@as //; ` + strings.Join(
			ours,
			"",
		) + `s/^\[//; s/\]$//; s/, *\(, *\)*/, /g; s/^[, ]*//; s/[, ]*$//"; }`}
	do = append(
		slices.Clone(tools),
		`mkdir -p "${saved%/*}" && touch "$saved"`,
		`old=$(dconf read "$key"); grep -q "^$key " "$saved" || printf '%s %s\n' "$key" "$old" >> "$saved"; old=$(others "$old")`,
		`dconf write "$key" "[${old:+$old, }`+strings.Join(items, ", ")+`]"`,
	)
	undo = append(slices.Clone(tools), `if grep -q "^$key " "$saved" 2> /dev/null; then`,
		`  old=$(others "$(dconf read "$key")"); was=$(sed -n "s|^$key ||p" "$saved"); sed -i "\|^$key |d" "$saved"`,
		`  if [ "$(others "$was")" != "$old" ]; then was=${old:+[$old]}; fi`,
		`  if [ -n "$was" ]; then dconf write "$key" "$was"; else dconf reset "$key"; fi`,
		"fi")
	return do, undo
}
