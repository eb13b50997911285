/** Everybody can use every view: names, roles, order and contrast, by rules that are not ours, in both themes. */
import axe from 'axe-core'
import { expect, test } from './test'
import { beginPlain, drop, sequence } from './support'

const VIEWS = [
  ['the board', '/'],
  ['the bench', '/bench'],
  ['outlets', '/outlets'],
  ['scenes', '/scenes'],
  ['the proof', '/proof'],
  ['a hand-over', '/proof?view=hand-over']
] as const

test('no view breaks a rule, light or dim', async ({ page }) => {
  test.setTimeout(180_000)
  await page.goto('/')
  await beginPlain(page)
  await drop(page, await sequence('fern_25fps', 3))
  await expect(page.getByRole('rowheader')).toHaveCount(1)
  await page.keyboard.press('p')
  await expect(page.locator('[data-cell]').first()).toHaveAttribute('data-state', 'Identical', { timeout: 60_000 })
  const broken: string[] = []
  for (const theme of ['light', 'dim'])
    for (const [name, at] of VIEWS) {
      await page.evaluate(chosen => localStorage.setItem('pour-theme', chosen), theme)
      await page.goto(at)
      await page.getByRole('main').waitFor()
      await page.waitForTimeout(700)
      await page.evaluate(axe.source)
      const { violations } = await page.evaluate(() => (window as unknown as { axe: typeof axe }).axe.run())
      for (const { id, nodes } of violations)
        for (const node of nodes.slice(0, 4))
          broken.push(
            `${name}, ${theme}: ${id}: ${node.target.join(' ')}: ${node.failureSummary?.split('\n')[1]?.trim()}`
          )
    }
  expect(broken).toEqual([])
})
