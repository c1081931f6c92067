<x-error-page code="503" :what="$what ?? 'The target does not answer'">{{ $says ?? 'Baggage is not there just now. Try again.' }}
  {{ isset($what) ? '' : 'Nothing was changed.' }}</x-error-page>
