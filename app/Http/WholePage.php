<?php

namespace App\Http;

use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/** The way to the door. A part of a page that is asked for leads the whole page there, and back to that page afterwards. */
final class WholePage
{
    public static function to(Request $request, string $path): Response
    {
        if (! $request->hasHeader('HX-Request')) {
            return redirect()->guest($path);
        }
        $page = (string) parse_url((string) $request->header('HX-Current-URL'), PHP_URL_PATH);
        if (str_starts_with($page, '/m/')) {
            $request->session()->put('url.intended', url($page));
        }

        return response('', 200, ['HX-Redirect' => $path]);
    }
}
