<?php

namespace App\Looking;

use Illuminate\Http\Request;
use Illuminate\Http\Response;

/** The answer to what was sent while a worker still looks: a page that sends it once more by itself, until it can be done. */
final class Waiting
{
    /** The form's field that says on which page it was filled in. */
    public const BACK = 'back';

    /** @param  list<string>  $secrets  fields that are not put into a page */
    public static function page(LookGoing $going, Request $request, array $secrets): Response
    {
        $own = ['_token', '_method', Looks::AGAIN, Aside::AGAIN, self::BACK];
        $fields = $request->except([...$secrets, ...$own, ...array_keys($request->allFiles())]);
        $more = [
            '_method' => $request->method() === 'POST' ? null : $request->method(),
            Looks::AGAIN => Looks::again(),
            Aside::AGAIN => Aside::waits($request),
            self::BACK => self::filledIn($request),
        ];

        return response()->view('looking', [
            'says' => $going->getMessage(),
            'to' => $request->fullUrl(),
            'fields' => self::flat($fields) + array_filter($more, fn (?string $value) => $value !== null),
        ], 202);
    }

    private static function filledIn(Request $request): ?string
    {
        $of = parse_url((string) $request->headers->get('referer'));
        $query = isset($of['query']) ? "?$of[query]" : '';

        return isset($of['path']) ? $of['path'].$query : null;
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
