<?php

namespace App\Providers;

use App\Loading\DueSoon;
use App\Mapping\Waiting;
use App\View\Say;
use App\View\Tell;
use Illuminate\Routing\Route;
use Illuminate\Support\Facades\View;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    /** @var array<class-string, class-string> */
    public array $bindings = [Waiting::class => DueSoon::class];

    public function boot(): void
    {
        View::share(['say' => $say = new Say, 'tell' => new Tell($say)]);
    }

    public function register(): void
    {
        // Parameters of a route that are lists, and how deep: PlainParameters refuses all others.
        Route::macro('lists', function (int ...$depths) {
            /** @var Route $this */
            return $this->setAction(['lists' => $depths] + $this->getAction());
        });
    }
}
