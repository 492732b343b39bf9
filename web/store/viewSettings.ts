import { remembered } from './remembered'
import { GROUNDS, setView } from './shotStore'

const KEPT = ['fillOpacity', 'cutoutGround', 'groundColour', 'lineWidth', 'handleSize', 'showsBox'] as const

/** How the artist likes the picture; what belongs to one shot is not kept, and a ground's picture is not either. */
export const rememberView = () =>
  remembered(
    'view',
    KEPT,
    (state) => state.view,
    setView,
    (name, value) => {
      if (name === 'cutoutGround') return value !== 'picture' && GROUNDS.some((ground) => ground === value)
      return name !== 'groundColour' || /^#[0-9a-f]{6}$/i.test(String(value))
    },
  )
