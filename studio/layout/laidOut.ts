import { LayoutPage } from './LayoutPage'

/** Lays copy out on a page of its own, which nobody sees and which is gone afterwards. */
export async function laidOut<T>(work: (page: LayoutPage) => Promise<T>): Promise<T> {
  const host = document.createElement('div')
  host.style.cssText =
    'position:fixed;left:0;top:0;width:0;height:0;overflow:hidden;visibility:hidden'
  document.body.append(host)
  const page = new LayoutPage(host)
  try {
    return await work(page)
  } finally {
    page.close()
    host.remove()
  }
}
