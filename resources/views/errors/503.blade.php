<x-error-page code="503" what="The target does not answer">{{ $says ?? 'Baggage is not there just now. Try again.' }}
  Nothing
  was changed.</x-error-page>
