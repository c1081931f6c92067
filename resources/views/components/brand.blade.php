<svg width="22" height="20" viewBox="0 0 22 20" aria-hidden="true">
  <path d="M7 2h13v16H7l-5-8z" fill="none" stroke="#f5c400" stroke-width="2" />
  <circle cx="8" cy="10" r="1.5" fill="#f5c400" />
  <path d="M14 3v14" stroke="#f5c400" stroke-width="1.5" stroke-dasharray="2 2" />
</svg>
