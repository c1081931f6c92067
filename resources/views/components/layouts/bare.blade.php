<!doctype html>
<html lang="en">

<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  <meta name="htmx-config"
    content='{"includeIndicatorStyles":false,"allowEval":false,"historyCacheSize":0,"selfRequestsOnly":true}'>
  <title>{{ $title ?? 'Baggage' }}</title>
  <link rel="icon" href="/tag.svg" type="image/svg+xml">
  @vite(['resources/css/app.css', 'resources/js/app.js'])
</head>

<body hx-headers='{"X-CSRF-TOKEN": "{{ csrf_token() }}"}'>
  {{ $slot }}
</body>

</html>
