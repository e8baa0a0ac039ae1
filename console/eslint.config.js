import hooks from 'eslint-plugin-react-hooks'
import { globalIgnores } from 'eslint/config'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  globalIgnores(['dist', 'made', 'src/api-types.ts']),
  ...tseslint.configs.recommended,
  hooks.configs.flat.recommended,
  { rules: { 'react-hooks/incompatible-library': 'off' } }, // it is about a compiler that is not used here
  {
    // What pages share is in data/ and ui/: a page can be read, and changed, by itself.
    files: ['src/{pages,data,ui,bench,result,editor}/**'],
    rules: { 'no-restricted-imports': ['error', { patterns: ['**/pages/*', '**/frames/*'] }] },
  },
  {
    files: ['src/pages/*'],
    rules: { 'no-restricted-imports': ['error', { patterns: ['./*', '**/frames/*'] }] },
  },
)
