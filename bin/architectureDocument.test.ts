import { existsSync, readFileSync } from 'node:fs'
import path from 'node:path'
import { expect, it } from 'vitest'

const project = path.resolve(import.meta.dirname, '..')

it('every folder that docs/architecture.md names exists', () => {
  const text = readFileSync(path.join(project, 'docs', 'architecture.md'), 'utf8')
  const named = [...text.matchAll(/`([a-z][\w-]*(?:\/[\w-]+)*\/)`/g)].map((match) => match[1]!)
  expect(new Set(named).size).toBeGreaterThan(20)
  expect(named.filter((folder) => !existsSync(path.join(project, folder)))).toEqual([])
})

it('every picture and page that README.md and docs/guide.md link to exists', () => {
  for (const page of ['README.md', 'docs/guide.md']) {
    const text = readFileSync(path.join(project, page), 'utf8')
    const links = [...text.matchAll(/\]\((?!https?:)([^)#]+)\)/g)].map((match) => match[1]!)
    expect(links.length).toBeGreaterThan(3)
    const from = path.dirname(path.join(project, page))
    expect(links.filter((link) => !existsSync(path.join(from, link)))).toEqual([])
  }
})
