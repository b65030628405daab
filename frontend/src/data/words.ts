/** Numbers as a reader wants them. Every value comes with its unit; none is computed here. */

export function seconds(value: number): string {
  const whole = Math.max(0, Math.round(value))
  const hours = Math.floor(whole / 3600)
  const minutes = Math.floor((whole % 3600) / 60)
  const rest = String(whole % 60).padStart(2, '0')
  return hours ? `${hours}:${String(minutes).padStart(2, '0')}:${rest}` : `${minutes}:${rest}`
}

/** A place on the time line, to the hundredth. */
export function place(value: number): string {
  const hundredths = Math.round(value * 100)
  const minutes = Math.floor(hundredths / 6000)
  return `${minutes}:${((hundredths % 6000) / 100).toFixed(2).padStart(5, '0')}`
}

/** An exact ratio such as '24000/1001' as a number. */
export function ratio(text: string): number {
  const [over, under] = text.split('/')
  return Number(over) / Number(under ?? 1)
}

export function rate(text: string): string {
  return String(Number(ratio(text).toFixed(3)))
}

export function bytes(value: number): string {
  const [amount, unit] = value >= 1e9 ? [value / 1e9, 'GB'] : value >= 1e6 ? [value / 1e6, 'MB'] : [value / 1e3, 'kB']
  return `${amount >= 100 ? Math.round(amount) : amount.toFixed(1)} ${unit}`
}

export function mbps(bitsPerSecond: number): string {
  const value = bitsPerSecond / 1e6
  return `${value < 2 ? value.toFixed(2) : value.toFixed(1)} Mbit/s`
}

export function signed(value: number, digits = 1): string {
  return value.toFixed(digits).replace('-', '−')
}

/** A file's name without its ending, for headings. */
export function stem(name: string): string {
  return name.replace(/\.[^.]+$/, '')
}

export function percent(share: number): string {
  return share < 0.001 ? '< 0.1 %' : `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`
}

/** The number that somebody typed, with a point or a comma for its decimals; nothing where it is none. */
export function numberIn(text: string): number | undefined {
  const plain = text.trim().replace('−', '-').replace(',', '.')
  const found = Number(plain)
  return plain && Number.isFinite(found) ? found : undefined
}

/** A day as people here count it, not as it is in Greenwich: such as 2026-12-01. */
export function localDay(when: Date): string {
  return [when.getFullYear(), String(when.getMonth() + 1).padStart(2, '0'), String(when.getDate()).padStart(2, '0')].join('-')
}
