<?php

namespace App\Providers;

use Illuminate\Routing\Route;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    public function register(): void
    {
        // Parameters of a route that are lists, and how deep: PlainParameters refuses all others.
        Route::macro('lists', function (int ...$depths) {
            /** @var Route $this */
            return $this->setAction(['lists' => $depths] + $this->getAction());
        });
    }
}
