<?php

namespace App\Providers;

use App\Mapping\WaitingRows;
use App\Rejects\Repairs;
use Illuminate\Routing\Route;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    /** @var array<class-string, class-string> */
    public array $bindings = [WaitingRows::class => Repairs::class];

    public function register(): void
    {
        // Parameters of a route that are lists, and how deep: PlainParameters refuses all others.
        Route::macro('lists', function (int ...$depths) {
            /** @var Route $this */
            return $this->setAction(['lists' => $depths] + $this->getAction());
        });
    }
}
