<?php

namespace App\Looking;

use Illuminate\Http\Request;
use Illuminate\Http\Response;

/** The answer to what was sent while a worker still looks: a page that sends it once more by itself, until it can be done. */
final class Waiting
{
    /** @param  list<string>  $secrets  fields that are not put into a page */
    public static function page(LookGoing $going, Request $request, array $secrets): Response
    {
        $fields = $request->except([...$secrets, '_token', '_method', Looks::AGAIN, Aside::AGAIN, ...array_keys($request->allFiles())]);
        $more = [
            '_method' => $request->method() === 'POST' ? null : $request->method(),
            Looks::AGAIN => Looks::again(),
            Aside::AGAIN => Aside::waits($request),
        ];

        return response()->view('looking', [
            'says' => $going->getMessage(),
            'to' => $request->fullUrl(),
            'fields' => self::flat($fields) + array_filter($more, fn (?string $value) => $value !== null),
        ], 202);
    }

    /**
     * @param  array<array-key, mixed>  $fields
     * @return array<string, string> name in a form → value
     */
    private static function flat(array $fields, string $in = ''): array
    {
        $flat = [];
        foreach ($fields as $name => $value) {
            $at = $in === '' ? (string) $name : "{$in}[$name]";
            $flat += is_array($value) ? self::flat($value, $at) : [$at => (string) $value];
        }

        return $flat;
    }
}
