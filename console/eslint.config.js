import hooks from 'eslint-plugin-react-hooks'
import { globalIgnores } from 'eslint/config'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  globalIgnores(['dist', 'src/api-types.ts']),
  ...tseslint.configs.recommended,
  hooks.configs.flat.recommended,
  { rules: { 'react-hooks/incompatible-library': 'off' } }, // it is about a compiler that is not used here
)
