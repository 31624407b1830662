import { useShot } from '../store'

export const useFps = () => useShot((s) => s.rate.num / s.rate.den)
