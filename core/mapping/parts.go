package mapping

import (
	"bytes"
	"sync"

	"github.com/hashicorp/hcl/v2"
	"github.com/hashicorp/hcl/v2/hclsyntax"
)

const (
	// minPart is how many bytes are worth a part of their own.
	minPart = 2 << 10
	// maxParts is how many there are at most.
	maxParts = 8
)

// parseParts is what HCL makes of a text, which it reads in parts side by side: a part
// begins where a line does, outside of all brackets, texts and comments. Where anything
// is wrong with a part, the text is read as a whole, for HCL to say what.
func parseParts(name string, text []byte, begins []int) (*hclsyntax.Body, hcl.Diagnostics) {
	files := make([]*hcl.File, len(begins))
	failed := make([]bool, len(begins))
	parse := func(i int) {
		end := len(text)
		if i+1 < len(begins) {
			end = begins[i+1]
		}
		from := hcl.Pos{Byte: begins[i], Line: 1 + bytes.Count(text[:begins[i]], []byte("\n")), Column: 1}
		f, diags := hclsyntax.ParseConfig(text[begins[i]:end], name, from)
		files[i], failed[i] = f, len(diags) > 0
	}
	var wait sync.WaitGroup
	for i := range begins[1:] {
		wait.Go(func() { parse(i + 1) })
	}
	parse(0)
	wait.Wait()

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
