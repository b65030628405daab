import { expect, it } from 'vitest'

const sources = import.meta.glob<string>('../src/**/*.{vue,ts}', { query: '?raw', import: 'default', eager: true })
const styles = Object.keys(import.meta.glob('../node_modules/element-plus/theme-chalk/el-*.css', { query: '?url' }))
const css = (name: string) => `element-plus/theme-chalk/${name.replace(/([a-z0-9])([A-Z])/g, '$1-$2').toLowerCase()}.css`

it('every component that is used has its styles, or it could not be seen', () => {
  const used = new Set<string>()
  for (const text of Object.values(sources))
    for (const [, names] of text.matchAll(/import \{([^}]*)\} from 'element-plus'/g))
      for (const name of names!.split(',')) if (/^\s*El[A-Z]/.test(name)) used.add(name.trim())
  const main = sources['../src/main.ts']!
  expect([used.size > 10, styles.length > 50]).toEqual([true, true])
  expect([...used].filter((name) => styles.some((path) => path.endsWith(css(name))) && !main.includes(css(name)))).toEqual([])
})
