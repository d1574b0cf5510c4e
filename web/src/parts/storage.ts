/**
 * The browser's storage, reached anew for every word: where site data are blocked, even naming it throws, and each caller says what that
 * means for it.
 */
export const browserStorage: Pick<Storage, 'getItem' | 'setItem' | 'removeItem' | 'key' | 'length'> = {
  get length() {
    return window.localStorage.length;
  },
  key: (index) => window.localStorage.key(index),
  getItem: (key) => window.localStorage.getItem(key),
  setItem: (key, value) => window.localStorage.setItem(key, value),
  removeItem: (key) => window.localStorage.removeItem(key),
};
