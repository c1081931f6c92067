<?php

/*
 * Router of PHP's own web server: files of public/ with the headers every answer carries, all else to the application.
 */
$public = dirname(__DIR__).'/public';
$path = rawurldecode((string) parse_url((string) $_SERVER['REQUEST_URI'], PHP_URL_PATH));
$file = realpath($public.$path);
$types = [
    'css' => 'text/css; charset=utf-8',
    'js' => 'text/javascript; charset=utf-8',
    'svg' => 'image/svg+xml',
    'png' => 'image/png',
    'ico' => 'image/x-icon',
    'woff' => 'font/woff',
    'woff2' => 'font/woff2',
    'txt' => 'text/plain; charset=utf-8',
];
$type = $types[strtolower(pathinfo((string) $file, PATHINFO_EXTENSION))] ?? null;
if ($file === false || $type === null || ! str_starts_with($file, "$public/") || ! is_file($file)) {
    require "$public/index.php";

    return;
}
header_remove('X-Powered-By');
header("Content-Type: $type");
header('Content-Length: '.filesize($file));
// Names of built files change with what is in them.
header('Cache-Control: '.(str_starts_with($path, '/build/') ? 'public, max-age=31536000, immutable' : 'public, max-age=3600'));
header("Content-Security-Policy: default-src 'none'; frame-ancestors 'none'");
header('X-Content-Type-Options: nosniff');
header('X-Frame-Options: DENY');
header('Referrer-Policy: same-origin');
header('Cross-Origin-Resource-Policy: same-origin');
if ($_SERVER['REQUEST_METHOD'] !== 'HEAD') {
    readfile($file);
}
