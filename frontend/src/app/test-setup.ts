/** No test reaches a real server: what a test does not answer is away. */
globalThis.fetch = () => Promise.reject(new Error('no server in tests'))
