package menukeys

import (
	"strings"

	"leitstand/core/change"
	"leitstand/core/desktop"
	"leitstand/core/mechanism"
)

// Write gives the items of menus their chords.
func (own) Write(_ *mechanism.Machine, list []mechanism.Taken) (mechanism.Output, error) {
	var changes []change.Change
	at := map[string]int{}
	_, under, _ := strings.Cut(desktop.MenuKeys, ":")
	for _, b := range list {
		p := b.Plan.(plan)
		domains := b.Apps
		if len(domains) == 0 {
			domains = []string{"NSGlobalDomain"}
		}
		for _, domain := range domains {
			for _, title := range p.titles {
				c := change.Setting{About: said(domain), Store: change.Defaults, Key: domain + ":" + under + title,
					To: change.Text(p.equivalent)}
				c.Serves = []string{b.Press()}
				i, again := at[c.Key]
				switch {
				case !again:
					at[c.Key] = len(changes)
					changes = append(changes, c)
				case p.equivalent != nobody: // switched off by one rule, and given another chord by this one
					c.Serves = append(changes[i].Note().Serves, c.Serves...)
					changes[i] = c
				}
			}
		}
	}
	return mechanism.Changed(changes), nil
}

// said is what is told of the chords of a domain.
func said(domain string) change.About {
	about := change.About{
		In: "menukeys/" + domain + ".plist",
		Says: "Give items of programs' menus their chords, by their titles in several languages; start the " +
			"programs anew then. What the chords were is saved for the way back.",
		Unsays: "Have these items' chords as they were; start the programs anew then.",
	}
	if domain != "NSGlobalDomain" {
		about.Says += " If the program is a sandboxed one, the terminal needs full access to the disk for it " +
			"(Settings, Privacy & Security)."
	}
	return about
}
