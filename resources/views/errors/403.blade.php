<x-error-page code="403" what="Your role does not allow this">Nothing was changed. Somebody with another role can do
  it.</x-error-page>
