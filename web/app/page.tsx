import { Board } from '../features/board/Board'

export default function BoardPage() {
  return <Board />
}
