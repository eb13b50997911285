/** The test of every end-to-end file: it fails where a page complains, or shows words that are no words. */
import { test as base, type BrowserContext } from '@playwright/test'

export { expect, type Download, type Locator, type Page } from '@playwright/test'

/** What stands on a page only where something went wrong behind it; numbers to the last digit of a double with it. */
const NO_WORDS =
  '\\bundefined\\b|\\[object |is not a function|is not defined|is not iterable|before initialization|reading ' +
  "'|\\bNaN\\b|\\d\\.\\d{9,}"

/** Sees every text that appears, for however short a time, and what is said to those who hear the page. */
function watchWords(pattern: string): void {
  const wrong = new RegExp(pattern)
  const tell = (text: string | null): void => {
    if (text && wrong.test(text))
      void (window as unknown as { noWords(text: string): void }).noWords(text.slice(0, 200))
  }
  const look = (node: Node): void => {
    if (node.nodeType === Node.TEXT_NODE) {
      const within = node.parentElement?.closest('script, style')
      if (!within) tell(node.nodeValue)
    } else if (node instanceof Element) {
      for (const name of ['aria-label', 'title', 'alt', 'placeholder']) tell(node.getAttribute(name))
      node.childNodes.forEach(look)
    }
  }
  new MutationObserver(changes => {
    for (const { type, target, addedNodes } of changes)
      if (type === 'childList') addedNodes.forEach(look)
      else if (type === 'characterData') look(target)
      else if (target instanceof Element)
        for (const name of ['aria-label', 'title', 'alt', 'placeholder']) tell(target.getAttribute(name))
  }).observe(document, {
    subtree: true,
    childList: true,
    characterData: true,
    attributes: true,
    attributeFilter: ['aria-label', 'title', 'alt', 'placeholder']
  })
}

async function listen(context: BrowserContext, heard: string[]): Promise<void> {
  context.on('page', page => {
    page.on('pageerror', error => heard.push(`page error: ${error.message}`))
    page.on('console', message => {
      if (message.type() === 'error') heard.push(`console: ${message.text()}`)
    })
  })
  await context.exposeFunction('noWords', (text: string) => void heard.push(`on the page: ${text}`))
  await context.addInitScript(watchWords, NO_WORDS)
}

export const test = base.extend<{ expected: RegExp[]; context: BrowserContext }>({
  /** What a test brings about on purpose. */
  expected: [[], { option: true }],
  context: async ({ context, expected }, use) => {
    const heard: string[] = []
    await listen(context, heard)
    await use(context)
    const wrong = heard.filter(each => !expected.some(known => known.test(each)))
    base.expect(wrong, 'what the pages complained of').toEqual([])
  }
})
