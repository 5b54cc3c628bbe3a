/** Where the page and its API live: the practised clean is the same application in a room of its own. */
export const ROOM = '/trial'
export const inTrial = new RegExp(`^${ROOM}(/|$)`).test(window.location.pathname)
export const ROOT = inTrial ? ROOM : ''
export const API = `${ROOT}/api`
