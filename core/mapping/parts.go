package mapping

import (
	"bytes"
	"slices"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"

	"leitstand/core/parallel"
)

// partSize is how many bytes are worth a part of their own. HCL's list of a text's tokens grows by copying, and is dropped
// when the text is parsed: small parts take less memory.
const partSize = 4 << 10

// rulesAtOnce is how many rules are worth a part of their own.
const rulesAtOnce = 64

// rulesFirst is how many rules a list of blocks begins with.
func rulesFirst(blocks hclsyntax.Blocks) int {
	for i, syn := range blocks {
		if s := schemaOf(syn.Type); s == nil || !s.rule {
			return i
		}
	}
	return len(blocks)
}

// rules reads many rules, in parts side by side. A part in which anything is wrong is read once more in its turn: what is
// told of it depends on what is told of those before it.
func (l *loader) rules(src *source, blocks hclsyntax.Blocks, in setting) {
	chunks := slices.Collect(slices.Chunk(blocks, rulesAtOnce))
	parts := make([]loader, len(chunks))
	parallel.Each(len(chunks), func(i int) {
		m := *l.m
		m.Rules, m.Unread = nil, Unread{}
		part := *l
		part.part = true
		part.m, part.diags, part.scoped, part.usedApps, part.clauses = &m, nil, nil, nil, nil
		part.each(src, chunks[i], in)
		parts[i] = part
	})
	for i, part := range parts {
		if len(part.diags) > 0 || l.full() {
			l.each(src, chunks[i], in)
			continue
		}
		l.m.Rules = append(l.m.Rules, part.m.Rules...)
		l.scoped, l.usedApps = append(l.scoped, part.scoped...), append(l.usedApps, part.usedApps...)
		l.clauses = append(l.clauses, part.clauses...)
	}
}

// parseParts is what HCL makes of a text, which it reads in parts side by side: a part
// begins where a line does, outside of all brackets, texts and comments. Where anything
// is wrong with a part, the text is read as a whole, for HCL to say what.
func parseParts(name string, text []byte, begins []int) (*hclsyntax.Body, hcl.Diagnostics) {
	files := make([]*hcl.File, len(begins))
	failed := make([]bool, len(begins))
	ends, lines := append(begins[1:len(begins):len(begins)], len(text)), make([]int, len(begins)+1)
	for i, from := range begins {
		lines[i+1] = lines[i] + bytes.Count(text[from:ends[i]], []byte("\n"))
	}
	parallel.Each(len(begins), func(i int) {
		from := hcl.Pos{Byte: begins[i], Line: 1 + lines[i], Column: 1}
		f, diags := hclsyntax.ParseConfig(text[begins[i]:ends[i]], name, from)
		files[i], failed[i] = f, len(diags) > 0
	})

	whole, well := files[0].Body.(*hclsyntax.Body)
	for i, f := range files {
		part, ok := f.Body.(*hclsyntax.Body)
		if well = well && ok && !failed[i]; !well {
			break
		}
		if i == 0 {
			continue
		}
		for name, a := range part.Attributes {
			_, twice := whole.Attributes[name]
			well = well && !twice
			whole.Attributes[name] = a
		}
		whole.Blocks = append(whole.Blocks, part.Blocks...)
		whole.SrcRange.End, whole.EndRange = part.SrcRange.End, part.EndRange
	}
	if well {
		return whole, nil
	}
	f, diags := hclsyntax.ParseConfig(text, name, hcl.InitialPos)
	body, _ := f.Body.(*hclsyntax.Body)
	return body, diags
}
