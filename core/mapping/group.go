package mapping

import (
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path"
	"slices"
	"strings"

	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
)

// groupFile is the file of a group's rules, with the constants that are its own.
type groupFile struct {
	parsedFile
	lets  map[string]cty.Value
	exact map[string]string
}

// groupFiles reads the files of groups and what they define, before any rule is read.
func (l *loader) groupFiles(src *source, body *hclsyntax.Body) {
	for _, syn := range body.Blocks {
		if l.full() {
			return
		}
		switch syn.Type {
		case "on":
			l.groupFiles(src, syn.Body)
		case "group":
			if b := l.open(src, syn, schemaOf("group")); b != nil {
				b.groupFile()
			}
			l.groupFiles(src, syn.Body)
		}
	}
}

// beside is a file that is named beside the block's own, as the loader's file system has it; not ok, and told, where
// it leads out of that.
func (b *block) beside(t Text) (name string, ok bool) {
	own := strings.TrimPrefix(strings.TrimPrefix(b.src.name, b.shown), "/")
	name = path.Join(path.Dir(own), t.Value)
	if fs.ValidPath(name) {
		name = throughLinks(b.fsys, name)
	}
	if !fs.ValidPath(name) || path.IsAbs(t.Value) {
		b.add(
			t.Range, "bad-file", fmt.Sprintf("%q leads out of the mapping's folder", t.Value),
			"keep the file in that folder or below it, or allow it with --allow-outside",
		)
		return "", false
	}
	return name, true
}

// groupFile reads the file that a group names, and its definitions.
func (b *block) groupFile() {
	t, ok := b.text("file")
	if !ok {
		return
	}
	name, ok := b.beside(t)
	if !ok {
		return
	}
	if first, ok := b.read[name]; ok {
		b.add(
			t.Range, "read-twice", fmt.Sprintf("%q is read already", t.Value),
			"read a file once; a file cannot read itself either", diag.Related{Range: first, Words: "first here"},
		)
		return
	}
	n := len(b.parsed)
	if err := b.file(name, t.Range); err != nil {
		why := err.Error()
		if errors.Is(err, fs.ErrNotExist) {
			why = "there is no such file"
		}
		b.add(
			t.Range, "missing-file", fmt.Sprintf("%q cannot be read: %s", t.Value, why),
			"give its path from the folder of this file",
		)
		return
	}
	if len(b.parsed) == n {
		return
	}
	p := b.parsed[n]
	g := groupFile{parsedFile: p}
	b.inGroupFile(p.src.name, groupFile{}, func() {
		b.definitions(p.src, p.body)
		g.lets, g.exact = map[string]cty.Value{}, map[string]string{}
		for name := range b.mine {
			g.lets[name] = b.lets[name]
			if text, ok := b.exactLets[name]; ok {
				g.exact[name] = text
			}
		}
	})
	b.groups[b.syn] = g
	for _, t := range b.texts("shares") {
		b.share(g, t)
	}
	b.groupFiles(p.src, p.body)
}

// inGroupFile does something with the names that a group's file sees.
func (l *loader) inGroupFile(file string, g groupFile, do func()) {
	lets, exact, mine, inFile := l.lets, l.exactLets, l.mine, l.inFile
	l.lets, l.exactLets, l.mine = maps.Clone(lets), maps.Clone(exact), map[string]bool{}
	l.inFile = file
	for name, v := range g.lets {
		l.lets[name] = v
		delete(l.exactLets, name)
	}
	maps.Copy(l.exactLets, g.exact)
	do()
	l.lets, l.exactLets, l.mine, l.inFile = lets, exact, mine, inFile
}

// share makes a name of a group's file one of the mapping.
func (b *block) share(g groupFile, t Text) {
	file, found := g.src.name, false
	var known []string
	twice := func(already bool) {
		if already {
			b.add(
				t.Range, "duplicate", fmt.Sprintf("the mapping has a %q of its own", t.Value),
				"take it out of shares, or give one of them another name",
			)
		}
	}
	for name, v := range g.lets {
		if known = append(known, name); name == t.Value {
			_, already := b.lets[name]
			twice(already)
			b.lets[name], found = v, true
			if text, ok := g.exact[name]; ok {
				b.exactLets[name] = text
			}
		}
	}
	for _, m := range b.m.Modifiers {
		if m.File != file {
			continue
		}
		if known = append(known, m.Name); m.Name == t.Value {
			_, already := b.m.Modifier(m.Name, "")
			twice(already)
			m.File, found = "", true
		}
	}
	for _, syn := range g.body.Blocks {
		if syn.Type == "app" && len(syn.Labels) == 1 {
			if known = append(known, syn.Labels[0]); syn.Labels[0] == t.Value {
				b.sharedApps[private(t.Value, file)], found = true, true
			}
		}
	}
	if !found {
		slices.Sort(known)
		b.unknown(t, "unknown-name", fmt.Sprintf("%q defines no %q", path.Base(file), t.Value), known)
	}
}

// group reads a group's rules: those in its braces and those of its file.
func (b *block) group(in setting) {
	inner := setting{inside: true, common: b.common(in)}
	inner.common.Group = strings.TrimPrefix(in.common.Group+"/"+b.labels[0].Value, "/")
	if strings.Count(inner.common.Group, "/") > 10 {
		b.add(b.head(), "too-deep", "groups are nested more than ten deep", "keep them flat")
		return
	}
	b.blocks(b.src, b.syn.Body, inner)
	g, ok := b.groups[b.syn]
	switch {
	case !ok && len(b.syn.Body.Blocks) == 0 && !b.has("keys") && !b.has("file"):
		b.add(
			b.head(), "empty-block", "the group is empty",
			"put rules into it, or name a file of rules with file = \"launchers.hcl\"",
		)
	case !b.has("file") && b.has("shares"):
		b.add(
			b.head(), "contradiction", "the group shares names of a file, and has none",
			"add file = \"launchers.hcl\", or take shares out",
		)
	case ok:
		for _, name := range sortedAttrs(g.body) {
			if a := g.body.Attributes[name]; name == "version" {
				b.version(g.src, a)
			} else if name != keysSchema.typ {
				b.add(g.src.rng(a.NameRange), "misplaced-attribute", fmt.Sprintf("%q means nothing in a group's file", name), "such a file holds rules and what they need")
			}
		}
		inner.ofFile = true
		b.inGroupFile(g.src.name, g, func() { b.blocks(g.src, g.body, inner) })
	}
}
