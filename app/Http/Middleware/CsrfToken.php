<?php

namespace App\Http\Middleware;

use Illuminate\Foundation\Http\Middleware\ValidateCsrfToken;

/** Pages carry the token themselves, so no cookie that scripts can read has it too. */
final class CsrfToken extends ValidateCsrfToken
{
    protected $addHttpCookie = false;
}
