<x-error-page code="419" what="This page was open too long">Nothing was changed. Go back, load the page again and
  repeat it.</x-error-page>
