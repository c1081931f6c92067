<?php

// A service that answers with more than anybody should take: /plain as it is, /packed as a small gzip stream.

header('Content-Type: application/json');
$packed = str_starts_with($_SERVER['REQUEST_URI'], '/packed');
$gzip = $packed ? deflate_init(ZLIB_ENCODING_GZIP) : null;
if ($packed) {
    header('Content-Encoding: gzip');
}
for ($i = 0; $i < 200 && ! connection_aborted(); $i++) {
    $part = str_repeat(' ', 1 << 20);
    echo $gzip === null ? $part : deflate_add($gzip, $part, ZLIB_NO_FLUSH);
    flush();
}
echo $gzip === null ? '[{"a":"1"}]' : deflate_add($gzip, '[{"a":"1"}]', ZLIB_FINISH);
