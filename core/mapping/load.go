package mapping

import (
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
	"github.com/zclconf/go-cty/cty"

	"leitstand/core/diag"
	"leitstand/core/machine"
)

// Load reads a mapping: the file called name in fsys or, if name is a folder,
// all .hcl files in it in the order of their names. Places are given as paths
// below shown, which is the folder of fsys as the user called it.
//
// The diagnostics are all that is wrong with the mapping, sorted; what could be
// read is returned beside them. The error is for what cannot be read at all.
func Load(fsys fs.FS, name, shown string) (*Mapping, diag.List, error) {
	o, err := Open(fsys, name, shown)
	if err != nil {
		return nil, nil, err
	}
	m, diags := o.Mapping()
	return m, diags, nil
}

// Opened is a mapping of which the definitions are read, and the rules are not.
type Opened struct{ l *loader }

// Open is the first half of Load, for a caller that has other work to do once it knows
// the machines.
func Open(fsys fs.FS, name, shown string) (*Opened, error) {
	info, err := fs.Stat(fsys, name)
	if err != nil {
		return nil, err
	}
	files := []string{name}
	if info.IsDir() {
		entries, err := fs.ReadDir(fsys, name)
		if err != nil {
			return nil, err
		}
		files = nil
		for _, e := range entries {
			if !e.IsDir() && path.Ext(e.Name()) == ".hcl" {
				files = append(files, path.Join(name, e.Name()))
			}
		}
		if len(files) == 0 {
			return nil, fmt.Errorf("%s has no .hcl file in it", path.Join(shown, name))
		}
	}
	l := &loader{
		fsys:       fsys,
		shown:      shown,
		read:       map[string]diag.Range{},
		lets:       map[string]cty.Value{},
		exactLets:  map[string]string{},
		mine:       map[string]bool{},
		groups:     map[*hclsyntax.Block]groupFile{},
		sharedApps: map[string]bool{},
		places:     map[string]diag.Range{},
		m: &Mapping{
			Version: Version, lines: map[string][]string{},
			machines: map[string]*Machine{}, boards: map[string]*Board{}, apps: map[string]*App{},
		},
	}
	for _, f := range files {
		if err := l.file(f, diag.Range{File: path.Join(shown, f)}); err != nil {
			return nil, err
		}
	}
	// What other lines refer to comes first, wherever it stands.
	l.opened = l.parsed
	for _, p := range l.opened {
		l.definitions(p.src, p.body)
	}
	for _, p := range l.opened {
		l.groupFiles(p.src, p.body)
	}
	return &Opened{l}, nil
}

// Machines are the machines of the mapping, which stay as they are.
func (o *Opened) Machines() []*Machine { return slices.Clone(o.l.m.Machines) }

// Mapping is the second half of Load.
func (o *Opened) Mapping() (*Mapping, diag.List) {
	l := o.l
	l.m.Unread.Definitions = l.diags.HasErrors()
	for _, p := range l.opened {
		l.top(p.src, p.body)
	}
	l.resolve()
	l.m.Unread.Definitions = l.m.Unread.Definitions || l.guessing
	l.diags.Sort()
	return l.m, l.diags
}

// loader reads files into a mapping and gathers what is wrong.
type loader struct {
	fsys   fs.FS
	shown  string
	read   map[string]diag.Range // files by their names in fsys, and who asked for them
	parsed []parsedFile
	opened []parsedFile // those that the mapping begins with
	lets   map[string]cty.Value
	// exactLets are the texts among lets as they are written.
	exactLets map[string]string
	// inFile is the group's file that is being read, whose names are its own; "" for none.
	inFile string
	part   bool            // it reads a part of the rules beside others
	mine   map[string]bool // the constants that it, or the mapping itself, defines
	groups map[*hclsyntax.Block]groupFile
	// sharedApps are the programs of groups' files that all may name.
	sharedApps map[string]bool
	m          *Mapping
	diags      diag.List
	broken     map[diag.Range]bool   // lines that HCL itself could not read
	guessing   bool                  // a syntax error may have hidden a definition
	places     map[string]diag.Range // machines and boards, by their names in small letters
	tooMany    bool                  // of them
	// Names to be looked up at the end.
	scoped, usedBoards, usedApps []Text
	clauses                      []*Clause
}

// parsedFile is a file that HCL could read.
type parsedFile struct {
	src  *source
	body *hclsyntax.Body
}

// file reads and parses one file, once.
func (l *loader) file(name string, asked diag.Range) error {
	l.read[name] = asked
	shown := path.Join(l.shown, name)
	info, err := fs.Stat(l.fsys, name)
	if err == nil && !info.Mode().IsRegular() {
		return &fs.PathError{
			Op:   "read",
			Path: shown,
			Err:  errors.New("it is no file, but a device, a pipe or a folder"),
		}
	}
	if err == nil && info.Size() > MaxSize {
		_, _, d := scan(shown, make([]byte, MaxSize+1))
		d.Summary = tooLarge(info.Size())
		l.diags = append(l.diags, *d)
		return nil
	}
	text, err := fs.ReadFile(l.fsys, name)
	if err != nil {
		return err
	}
	l.parse(shown, text)
	return nil
}

// add reports an error, unless HCL has reported its line already.
func (l *loader) add(r diag.Range, code, summary, advice string, related ...diag.Related) {
	if l.broken[diag.Range{File: r.File, Start: diag.Pos{Line: r.Start.Line}}] || l.full() ||
		l.told(r, code, short(summary, 300)) {
		return
	}
	l.diags = append(l.diags, diag.Diagnostic{
		Code: code, Summary: short(summary, 300), Advice: short(advice, 400), Range: r,
		Line: short(l.m.SourceLine(r), 2000), Related: related,
	})
}

// mostErrors is how many errors are told: nobody reads more, and each takes time.
const mostErrors = 1000

// full reports whether enough errors were found: of a part that is read beside others, one says that it is read again.
func (l *loader) full() bool { return len(l.diags) >= mostErrors || l.part && len(l.diags) > 0 }

// short leaves out the middle of a long text.
func short(text string, most int) string {
	if len(text) <= 2*most {
		return text
	}
	return strings.ToValidUTF8(text[:most], "") + " … " + strings.ToValidUTF8(text[len(text)-most/2:], "")
}

func (l *loader) parse(name string, text []byte) {
	ready, parts, bad := scan(name, text)
	if bad != nil {
		l.diags = append(l.diags, *bad)
		return
	}
	src := newSource(name, text)
	l.m.lines[name] = src.lines()
	if strings.TrimSpace(string(text)) == "" {
		l.add(diag.Range{File: name}, "empty-file", "the file is empty",
			`write a first rule, such as: remap "CapsLock" { to = "Escape" }`)
		return
	}
	body, diags := parseParts(name, ready, parts)
	l.syntax(src, diags)
	if body != nil {
		l.parsed = append(l.parsed, parsedFile{src, body})
	}
}

// syntax takes over HCL's own errors.
func (l *loader) syntax(src *source, diags hcl.Diagnostics) {
	for _, d := range diags {
		r := diag.Range{File: src.name}
		if d.Subject != nil {
			r = src.rng(*d.Subject)
		}
		summary, advice := syntaxWords(d)
		l.add(r, "syntax", summary, advice)
		if l.broken == nil {
			l.broken = map[diag.Range]bool{}
		}
		l.broken[diag.Range{File: r.File, Start: diag.Pos{Line: r.Start.Line}}] = true
		l.guessing = true
	}
}

// syntaxWords says the parser's commonest complaints in the words of a mapping;
// others are passed on as they are.
func syntaxWords(d *hcl.Diagnostic) (summary, advice string) {
	switch d.Summary {
	case "Argument definition required":
		return "a block on one line holds one attribute and no block", "put what is between the braces on lines of " +
			"its own"
	case "Invalid single-argument block definition":
		return "a block on one line holds one attribute, and its brace closes there", "put each attribute on a " +
			"line of its own, or close the brace behind the first"
	case "Invalid multi-line string":
		return "the quote is not closed on its line", "close it; a line break in a text is written \\n"
	case "Attribute redefined":
		return "this attribute is set twice in the block", "keep one of the two lines; rows of two tables go into one"
	case "Missing attribute separator":
		return "a comma is missing in the braces", "put a comma, or a line break, between two entries"
	case "Invalid argument name":
		return "a name in quotes stands in a table", "write it as a row: keys = { \"Ctrl+Alt+v\" = \"Ctrl+Shift+v\" }"
	case "Unclosed configuration block":
		return "the brace of this block is never closed", "add the closing brace; if it is there, an inner one is " +
			"missing"
	case "Invalid block definition":
		return "after a block's name and labels comes an opening brace", "write it as in: remap \"CapsLock\" { to " +
			"= \"Escape\" }"
	case "Argument or block definition required":
		return "here begins neither a rule nor an attribute", "a rule looks like: remap \"CapsLock\" { to = " +
			"\"Escape\" }"
	}
	summary = strings.TrimSuffix(plain(d.Summary), ".")
	if summary != "" {
		summary = strings.ToLower(summary[:1]) + summary[1:]
	}
	return summary, plain(d.Detail)
}

func (l *loader) top(src *source, body *hclsyntax.Body) {
	for _, name := range sortedAttrs(body) {
		a := body.Attributes[name]
		if l.full() {
			return
		}
		if name == "keys" {
			continue // read with the blocks
		}
		if name != "version" {
			known := []string{"version", "keys"}
			advice := fmt.Sprintf("a rule of a key is a row of the table: keys = { %s = … }", name)
			if n := diag.Nearest(name, append(known, blockNames()...)); n != "" {
				advice = fmt.Sprintf("did you mean %q?", n)
			}
			l.add(src.rng(a.NameRange), "unknown-attribute", fmt.Sprintf("%q means nothing here", name), advice)
			continue
		}
		l.version(src, a)
	}
	l.blocks(src, body, setting{common: Common{Enabled: true}})
}

// version holds the version of the language that a file says against that of the program.
func (l *loader) version(src *source, a *hclsyntax.Attribute) {
	v, ok := l.value(src, "version", a.Expr, formNumber)
	if !ok || v.RawEquals(cty.NumberIntVal(Version)) {
		return
	}
	n, _ := v.AsBigFloat().Int64()
	if n > Version {
		l.add(
			src.rng(a.Expr.Range()), "unknown-version",
			fmt.Sprintf("this file speaks version %d of the language, and this program version %d", n, Version),
			"use a newer leitstand",
		)
		return
	}
	l.add(
		src.rng(a.Expr.Range()), "unknown-version", fmt.Sprintf("there is no version %d of the language", n),
		fmt.Sprintf("write version = %d", Version),
	)
}

// definitions reads what chords and values refer to, constants and the user's own
// modifiers, and the machines, which others wait for.
func (l *loader) definitions(src *source, body *hclsyntax.Body) {
	for _, typ := range []string{"let", "modifier", "machine"} {
		for _, syn := range body.Blocks {
			if syn.Type != typ {
				continue
			}
			if l.full() {
				return
			}
			b := l.open(src, syn, schemaOf(typ))
			switch {
			case b == nil:
			case typ == "let":
				b.let()
			case typ == "modifier":
				b.modifier()
			default:
				b.machine()
			}
		}
	}
}

// setting is where rules stand, and what the blocks around them say for all rules in them.
type setting struct {
	inside bool   // in any block at all
	ofFile bool   // at the top of a group's file
	common Common // what a rule has that says nothing else; its scope and allow are added to
}

// blocks reads the blocks of a file, of an on block or of a group.
func (l *loader) blocks(src *source, body *hclsyntax.Body, in setting) {
	blocks := body.Blocks
	if table, ok := body.Attributes[keysSchema.typ]; ok { // which has its place among the blocks
		n := slices.IndexFunc(blocks, func(b *hclsyntax.Block) bool {
			return b.TypeRange.Start.Byte > table.NameRange.Start.Byte
		})
		if n < 0 {
			n = len(blocks)
		}
		l.manyBlocks(src, blocks[:n], in)
		l.table(src, table, in)
		blocks = blocks[n:]
	}
	l.manyBlocks(src, blocks, in)
}

// manyBlocks reads blocks, many rules in a row at once.
func (l *loader) manyBlocks(src *source, blocks hclsyntax.Blocks, in setting) {
	for rest := blocks; len(rest) > 0; {
		n := rulesFirst(rest)
		if n >= 2*rulesAtOnce {
			l.rules(src, rest[:n], in)
		} else {
			n = max(n, 1)
			l.each(src, rest[:n], in)
		}
		rest = rest[n:]
	}
}

// each reads blocks one after the other.
func (l *loader) each(src *source, blocks hclsyntax.Blocks, in setting) {
	for _, syn := range blocks {
		if l.full() {
			return
		}
		s := schemaOf(syn.Type)
		if s == nil {
			t := Text{syn.Type, src.rng(syn.TypeRange)}
			if l.reservedBlock(src, syn) {
				continue
			}
			if syn.Type == keysSchema.typ {
				l.add(t.Range, "unknown-block", "keys is no block", tableAdvice)
				continue
			}
			l.unknown(t, "unknown-block", fmt.Sprintf("there is no block %q", syn.Type), blockNames())
			continue
		}
		own := in.ofFile && (s.typ == "let" || s.typ == "modifier" || s.typ == "app")
		if in.inside && !s.rule && !s.holdsRules() && !own {
			l.add(src.rng(syn.TypeRange), "misplaced-block", fmt.Sprintf("a %s block cannot stand here", s.typ),
				"only rules stand in on and group blocks; move this out of it")
			continue
		}
		if s.typ == "let" || s.typ == "modifier" || s.typ == "machine" {
			continue // read by definitions
		}
		before := len(l.diags)
		b := l.open(src, syn, s)
		if b == nil {
			l.unread(s)
			continue
		}
		switch s.typ {
		case "board", "app":
			if s.typ == "board" {
				b.board()
			} else {
				b.app()
			}
			if len(l.diags) > before {
				l.unread(s)
			}
		case "group":
			b.group(in)
		case "on":
			if len(in.common.Scope) > 10 {
				l.add(
					b.head(), "too-deep", "on blocks are nested more than ten deep",
					"a scope has at most a machine, a desktop and a board",
				)
				continue
			}
			inner := in
			inner.common.Scope = append(slices.Clone(in.common.Scope), b.clause(b.labels, false))
			l.blocks(src, syn.Body, setting{inside: true, common: b.common(inner)})
		default:
			b.rule(in)
			if len(l.diags) > before {
				l.unread(s)
			}
		}
	}
}

// unread notes that a block could not be read as a whole.
func (l *loader) unread(s *schema) {
	if s.rule {
		l.m.Unread.Kinds = append(l.m.Unread.Kinds, Kind(s.typ))
	} else {
		l.m.Unread.Definitions = true
	}
}

// clause makes a scope clause of names, which are looked up when all machines
// and boards are known.
func (b *block) clause(names []Text, except bool) *Clause {
	c := &Clause{Except: except}
	for _, n := range names {
		if slices.Contains(c.Names, n.Value) {
			b.add(n.Range, "duplicate", fmt.Sprintf("%q stands twice here", n.Value), "name it once")
			continue
		}
		c.Names = append(c.Names, n.Value)
		b.scoped = append(b.scoped, n)
	}
	b.clauses = append(b.clauses, c)
	return c
}

// resolve looks up every name that refers to something defined elsewhere.
func (l *loader) resolve() {
	for _, c := range l.clauses {
		c.sort(l.m)
	}
	if l.guessing {
		return // the definition may stand where HCL could not read
	}
	known := slices.Concat(
		machine.Systems, slices.DeleteFunc(machine.DesktopNames(), func(d string) bool { return !isDesktop(d) }),
		machine.Sessions,
	)
	for _, m := range l.m.Machines {
		known = append(known, m.Name)
	}
	for _, b := range l.usedBoards {
		if _, ok := l.m.boards[b.Value]; !ok {
			l.m.Unread.Definitions = true
			l.unknown(b, "unknown-board", fmt.Sprintf("there is no board %q", b.Value), boardNames(l.m))
		}
	}
	known = append(known, boardNames(l.m)...)
	for _, n := range l.scoped {
		if other, ok := elsewhere(n.Value); ok && !slices.Contains(known, n.Value) {
			l.add(
				n.Range, "unknown-scope", fmt.Sprintf("%q is no system, desktop, session, machine or board", n.Value),
				fmt.Sprintf("write %q", other),
			)
		} else if !slices.Contains(known, n.Value) {
			l.unknown(n, "unknown-scope", fmt.Sprintf("%q is no system, desktop, session, machine or board", n.Value), known)
		}
	}
	for _, t := range l.usedApps {
		if _, ok := l.m.App(t.Value, t.Range.File); !ok {
			var names []string
			for _, a := range l.m.Apps {
				if a.File == "" || a.File == t.Range.File {
					names = append(names, a.Name)
				}
			}
			l.unknown(t, "unknown-app", fmt.Sprintf("there is no app %q", t.Value), names)
		}
	}
}

// elsewhere is our name for what people call a system or a desktop otherwise.
func elsewhere(name string) (string, bool) {
	if s, ok := systemCalled(name); ok {
		return s, true
	}
	return machine.DesktopCalled(name)
}

func boardNames(m *Mapping) []string {
	var names []string
	for _, b := range m.Boards {
		names = append(names, b.Name)
	}
	return names
}

// IsMissing says whether Load failed because there is no such file.
func IsMissing(err error) bool { return errors.Is(err, fs.ErrNotExist) }
