<x-error-page code="403" what="Your role does not allow this">Nothing was changed. A lead or consultant can do
  it.</x-error-page>
