declare module '*/made/go.js'
