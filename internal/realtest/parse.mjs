// Says where PowerShell scripts are none, by a grammar: node parse.mjs FOLDER SCRIPT...
import { readFileSync } from 'node:fs'

const [folder, ...scripts] = process.argv.slice(2)
const { Parser, Language } = await import(folder + '/web-tree-sitter.js')
await Parser.init()
const parser = new Parser()
parser.setLanguage(await Language.load(folder + '/tree-sitter-powershell.wasm'))
for (const script of scripts) {
    const tell = (node) => {
        if (node.isError || node.isMissing) console.log(`${script}:${node.startPosition.row + 1}: ${node.text.slice(0, 80)}`)
        for (let i = 0; i < node.childCount; i++) tell(node.child(i))
    }
    const { rootNode } = parser.parse(readFileSync(script, 'utf8'))
    if (rootNode.hasError) tell(rootNode)
}
