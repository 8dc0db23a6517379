// What readers of the open standards find in a release: the package, its rows, the Parquet file.
// Prints a line a check: `ok NAME` or `not ok NAME: WHY`. Run by tools/judges.R.
const fs = require('fs')
const path = require('path')
const folder = process.argv[2]

const say = (name, problem) => console.log(problem ? `not ok ${name}: ${problem}` : `ok ${name}`)
const attempt = async (name, work) => {
  try { say(name, await work()) } catch (e) {
    say(name, [e.message, ...(e.errors || []).map(one => one.message)].slice(0, 4).join('; '))
  }
}

async function main () {
  const { Package } = require('datapackage')
  const written = JSON.parse(fs.readFileSync(path.join(folder, 'datapackage.json'), 'utf8'))
  const held = await Package.load(path.join(folder, 'datapackage.json'))
  await attempt('datapackage: the descriptor is valid', async () =>
    held.valid ? '' : held.errors.map(e => e.message).slice(0, 3).join('; '))
  const rows = {}
  for (const resource of held.resources) {
    await attempt(`datapackage: every cell of ${resource.name} is of its type`, async () => {
      rows[resource.name] = await resource.read({ keyed: true })
      return rows[resource.name].length > 0 ? '' : 'no rows'
    })
    await attempt(`datapackage: the keys of ${resource.name} are found`, async () =>
      (await resource.checkRelations()) ? '' : 'a foreign key is not found')
  }
  // Categories are of the second version, which this reader passes over.
  await attempt('datapackage: a wrong cell would be seen', async () => {
    const field = written.resources[0].schema.fields.find(one => one.constraints && one.constraints.enum)
    const { Schema } = require('tableschema')
    const schema = await Schema.load({ fields: [field] })
    try { schema.castRow(['no such answer']) } catch (e) { return '' }
    return 'it was not'
  })
  const { parquetReadObjects, parquetMetadataAsync } = await import('hyparquet')
  const bytes = fs.readFileSync(path.join(folder, 'analysis.parquet'))
  const buffer = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength)
  await attempt('parquet: the same cells as the CSV', async () => {
    const read = await parquetReadObjects({ file: buffer })
    const plain = value => value === null || value === undefined ? null
      : value instanceof Date ? value.toISOString().slice(0, 10) : typeof value === 'bigint' ? Number(value) : value
    if (read.length !== rows.analysis.length) return `${read.length} rows instead of ${rows.analysis.length}`
    for (let at = 0; at < read.length; at++) for (const name of Object.keys(rows.analysis[at])) {
      const wanted = plain(rows.analysis[at][name])
      const found = plain(read[at][name])
      if (wanted !== found && !(typeof wanted === 'number' && Math.abs(wanted - found) < 1e-12)) return `${name} in row ${at + 1}: ${found} instead of ${wanted}`
    }
    return ''
  })
  await attempt('parquet: labels and questions stand in the metadata', async () => {
    const notes = (await parquetMetadataAsync(buffer)).key_value_metadata.map(one => one.key)
    return Object.keys(rows.analysis[0]).every(name => notes.includes('mavik.variable.' + name)) ? '' : 'not all'
  })
}

main().catch(e => say('the judges themselves', e.message))
