<x-error-page code="500" what="Baggage itself failed here">The cause stands in storage/logs. A change is kept whole or
  not at all.</x-error-page>
