import { type Token, type Tokens, lexer } from 'marked'
import { type FunctionalComponent, h, type VNodeChild } from 'vue'
import type { Piece } from '@/api/types'
import { say } from './sentence'

/** Stands for a value while the text around it is read, so that nothing in a value is taken for a mark. */
const open = '\uE000'
const close = '\uE001'
const standIn = /\uE000(\d+)\uE001/g

/** Where a link of a text may lead. */
const allowed = /^(https?:\/\/|mailto:|tel:|\/use(\/|$))/i

/**
 * A text with headings, lists, links and emphasis, written as CommonMark. It becomes elements, never markup: what
 * is none of these stays as it was written.
 */
const RichText: FunctionalComponent<{ sentence: Piece[] }> = ({ sentence }) => {
  const values = sentence.map((p) => say([p]))
  const source = sentence.map((p, i) => (p.type || p.given ? `${open}${i}${close}` : p.text)).join('')
  const filled = (text: string) => text.replace(standIn, (_, i: string) => values[Number(i)] ?? '')
  // Values in an address are escaped, but for one that it begins with; a telephone takes what can be dialled.
  const address = (href: string) =>
    href.replace(standIn, (_, i: string, at: number) => {
      const value = values[Number(i)] ?? ''
      if (at === 0) return value
      return /^tel:/i.test(href) ? value.replace(/[^\d+*#]/g, '') : encodeURIComponent(value)
    })

  function link(t: Tokens.Link): VNodeChild {
    const href = address(t.href)
    if (!allowed.test(href)) return filled(t.raw)
    const outside = /^https?:/i.test(href)
    return h('a', { href, ...(outside ? { target: '_blank', rel: 'noopener' } : {}) }, inline(t.tokens))
  }

  const inline = (tokens: Token[] = []): VNodeChild[] =>
    tokens.map((t) => {
      switch (t.type) {
        case 'strong':
        case 'em':
          return h(t.type, inline(t.tokens))
        case 'br':
          return h('br')
        case 'codespan':
          return h('code', filled((t as Tokens.Codespan).text))
        case 'link':
          return link(t as Tokens.Link)
        case 'escape':
          return (t as Tokens.Escape).text
        default:
          return 'tokens' in t && t.tokens ? inline(t.tokens) : filled(t.raw)
      }
    })

  const blocks = (tokens: Token[]): VNodeChild[] =>
    tokens.map((t) => {
      switch (t.type) {
        case 'space':
          return null
        case 'heading':
          return h(`h${Math.min((t as Tokens.Heading).depth + 1, 4)}`, inline(t.tokens))
        case 'list': {
          const list = t as Tokens.List
          const start = list.ordered && list.start !== 1 ? { start: list.start } : {}
          return h(
            list.ordered ? 'ol' : 'ul',
            start,
            list.items.map((item) => h('li', blocks(item.tokens))),
          )
        }
        case 'blockquote':
          return h('blockquote', blocks(t.tokens ?? []))
        case 'hr':
          return h('hr')
        case 'text':
          return inline(t.tokens ?? [t])
        case 'paragraph':
          return h('p', inline(t.tokens))
        default:
          return h('p', filled(t.raw))
      }
    })

  return h('div', { class: 'rich' }, blocks(lexer(source)))
}
RichText.props = ['sentence']
export default RichText
