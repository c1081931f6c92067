<?php

namespace App\Providers;

use App\Loading\DueSoon;
use App\Mapping\Waiting;
use App\Models\Migration;
use App\Models\Pass;
use App\Models\Round;
use App\Models\User;
use App\Models\Work;
use App\Overview\OverviewBook;
use App\Queueing\FairConnector;
use App\Reconciling\CountBook;
use App\Support\Written;
use App\View\Amounts;
use App\View\Say;
use App\View\Tell;
use App\View\Told;
use Baggage\Core\Reading\Limits;
use Illuminate\Http\Middleware\TrustProxies;
use Illuminate\Routing\Route;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\View;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    /** @var array<class-string, class-string> */
    public array $bindings = [Waiting::class => DueSoon::class];

    public function boot(): void
    {
        Limits::set(new Limits(...config('baggage.limits')));
        $here = fn () => app()->runningInConsole() && ! app()->runningUnitTests() ? null : request()->route('migration');
        (new Written(fn (): ?int => ($of = $here()) instanceof Migration ? $of->id : null))->watch();
        Queue::addConnector('fair', fn () => new FairConnector($this->app->make('db')));
        Queue::after(fn () => OverviewBook::renewOld());
        // However a pass ended: what it left is counted.
        Pass::updated(fn (Pass $pass) => $pass->wasChanged('state') && ! $pass->isGoing() ? CountBook::ask($pass->round) : null);
        Work::updated(function (Work $work) {
            $isDone = $work->wasChanged('state') && $work->kind->changesOutcomes() && ! $work->isGoing();
            $round = $isDone ? Round::query()->find($work->given['round'] ?? null) : null;
            $round === null || $round->hasEnded() ?: CountBook::ask($round);
        });
        TrustProxies::at(config('app.trusted_proxies'));
        Gate::define('administer', fn (User $user) => $user->is_administrator);
        View::share(['say' => $say = new Say, 'tell' => new Tell($say), 'people' => new Told, 'amounts' => new Amounts]);
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
