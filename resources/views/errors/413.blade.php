<x-error-page code="413" what="The file is too large">The server takes files up to its configured limit. Nothing was
  kept.</x-error-page>
