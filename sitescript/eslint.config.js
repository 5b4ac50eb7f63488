import prettier from 'eslint-config-prettier'
import ts from 'typescript-eslint'

export default ts.config({ ignores: ['build'] }, ...ts.configs.recommended, prettier)
