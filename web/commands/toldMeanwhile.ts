import { proxy } from 'comlink'

/**
 * Work of a helper that tells how far it is. It does so on a channel of its own, where news may arrive after the end: those
 * are not passed on, or what shows them would show them for ever.
 *
 * @param work  is given what the helper is to call with its news
 */
export async function toldMeanwhile<News, Result>(
  onNews: (news: News) => void,
  work: (tell: (news: News) => void) => Promise<Result>,
): Promise<Result> {
  let hasEnded = false
  try {
    return await work(proxy((news: News) => void (hasEnded || onNews(news))))
  } finally {
    hasEnded = true
  }
}
