<?php

// PHP 8.5 functions that the framework calls; the registry lacks their polyfill package.

if (! function_exists('array_first')) {
    /** @param  array<array-key, mixed>  $array */
    function array_first(array $array): mixed
    {
        return $array === [] ? null : $array[array_key_first($array)];
    }
}

if (! function_exists('array_last')) {
    /** @param  array<array-key, mixed>  $array */
    function array_last(array $array): mixed
    {
        return $array === [] ? null : $array[array_key_last($array)];
    }
}
