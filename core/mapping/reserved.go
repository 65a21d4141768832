package mapping

import (
	"fmt"

	"github.com/hashicorp/hcl/v2/hclsyntax"
)

// reservedBlocks and reservedAttrs are words kept for what is not written yet, with what they will mean: a mapping that
// has one is told so, and later versions of the language need no other word.
var reservedBlocks = map[string]string{
	"layouts":  `it will set layouts up, as in layouts "us" "de" { next = "Meta+Space" }`,
	"together": `it will be two keys pressed at once, as in together "KeyJ" "KeyK" { to = "Escape" }`,
	"sequence": `it will be strokes within a time, as in sequence "KeyG" "KeyG" { within = "300ms" }`,
}

// reservedAttrs are the same of attributes, by the block that has them; "" for every rule.
var reservedAttrs = map[string]map[string]string{
	"": {"user": "it will name the one user whom a rule is for"},
	"machine": {
		"use":    `it will list what a machine may use, as in ["agent"]`,
		"inside": "it will name the machine in whose window this one runs",
		"grabs":  "it will say that this window keeps all keys to itself",
	},
}

// reservedBlock reports a block whose word is kept for later.
func (l *loader) reservedBlock(src *source, syn *hclsyntax.Block) bool {
	what, ok := reservedBlocks[syn.Type]
	if ok {
		l.add(src.rng(syn.TypeRange), "reserved", fmt.Sprintf("%s is not written yet", syn.Type), "take it out; "+what)
	}
	return ok
}

// reservedAttr reports an attribute whose word is kept for later.
func (b *block) reservedAttr(a *hclsyntax.Attribute) bool {
	what, ok := reservedAttrs[b.schema.typ][a.Name]
	if !ok && (b.schema.rule || b.schema.gives) {
		what, ok = reservedAttrs[""][a.Name]
	}
	if ok {
		b.add(b.src.rng(a.NameRange), "reserved", fmt.Sprintf("%s is not written yet", a.Name), "take it out; "+what)
	}
	return ok
}
