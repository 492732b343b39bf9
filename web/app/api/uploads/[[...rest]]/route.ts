import { uploadServer } from '../../../../api/uploads'

export const dynamic = 'force-dynamic'

const handle = (request: Request) => uploadServer().handleWeb(request)

export { handle as DELETE, handle as GET, handle as HEAD, handle as OPTIONS, handle as PATCH, handle as POST }
