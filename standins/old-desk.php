<?php

// Front of the stand-in OldDesk for PHP's own web server.

require __DIR__.'/OldDesk.php';
$headers = array_change_key_case(getallheaders());
[$status, $lines, $body] = Standins\OldDesk::answer(
    (string) parse_url((string) $_SERVER['REQUEST_URI'], PHP_URL_PATH),
    $_GET,
    $headers,
    'http://'.$_SERVER['HTTP_HOST'],
    sys_get_temp_dir().'/old-desk-'.$_SERVER['SERVER_PORT'],
);
http_response_code($status);
foreach ($lines as $line) {
    header($line);
}
echo $body;
