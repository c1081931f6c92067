<x-error-page code="404" what="There is nothing at this address">It may have been deleted, or the address was cut
  off.</x-error-page>
