// How charts look. Apart from their library, which a page reads when it first shows one.

/** Tints of lines, distinguished by their brightness too; the legend beside says which is which. */
export const TINTS = ['#e9e6da', '#b6d37f', '#f0b95a', '#7fb7c9', '#c79ad8', '#8fa08d']
export const INK = { text: '#a3aaa0', line: '#454b42', faint: '#2e3530', ember: '#f2694a' }
export const FONT = 'Figtree Variable, system-ui, sans-serif'

/** What every chart here has in common: no animation, quiet axes, numbers as elsewhere. */
export const axis = (more: object = {}) => ({
  axisLine: { lineStyle: { color: INK.line } },
  axisTick: { show: false },
  axisLabel: { color: INK.text, fontSize: 11, fontFamily: FONT },
  splitLine: { lineStyle: { color: INK.faint } },
  nameTextStyle: { color: INK.text, fontSize: 11, fontFamily: FONT },
  ...more,
})
