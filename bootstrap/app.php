<?php

use App\Console\QuietErrors;
use App\Http\Middleware\CsrfToken;
use App\Http\Middleware\PlainParameters;
use App\Http\Middleware\Presence;
use App\Http\Middleware\SecurityHeaders;
use App\Http\Middleware\SentAgain;
use App\Http\Middleware\Witness;
use App\Http\WholePage;
use App\Looking\LookGoing;
use App\Looking\Waiting;
use App\Support\DatabaseDown;
use App\Support\EditLost;
use App\Support\SameMoment;
use Baggage\Core\Loading\TargetUnavailable;
use Illuminate\Auth\AuthenticationException;
use Illuminate\Contracts\Debug\ExceptionHandler;
use Illuminate\Database\QueryException;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Foundation\Configuration\Middleware;
use Illuminate\Foundation\Http\Middleware\ValidateCsrfToken;
use Illuminate\Http\Middleware\HandleCors;
use Illuminate\Http\Request;
use Illuminate\Routing\Middleware\SubstituteBindings;

// Whatever is written is a client's, or a secret.
umask(0077);

$app = Application::configure(basePath: dirname(__DIR__))
    ->withRouting(
        web: __DIR__.'/../routes/web.php',
        commands: __DIR__.'/../routes/console.php',
    )
    ->withMiddleware(function (Middleware $middleware) {
        // The application answers its own origin only; the CORS package is not available either.
        $middleware->remove(HandleCors::class);
        // Before all others, so that whatever is answered carries them.
        $middleware->prepend(SecurityHeaders::class);
        $middleware->web(
            append: [PlainParameters::class, SentAgain::class, Presence::class, Witness::class],
            replace: [ValidateCsrfToken::class => CsrfToken::class],
        );
        // Whose session is over learns nothing, not even what there is.
        $middleware->prependToPriorityList(before: SubstituteBindings::class, prepend: Presence::class);
        $middleware->trustHosts(at: fn () => config('app.trusted_hosts'), subdomains: false);
        $middleware->redirectUsersTo('/');
        // A legacy value is stored exactly as typed, blanks included.
        $middleware->trimStrings(except: ['password', 'current', fn ($request) => $request->is('m/*')]);
        $middleware->convertEmptyStringsToNull(except: [fn ($request) => $request->is('m/*')]);
    })
    ->withExceptions(function (Exceptions $exceptions) {
        // No secret is put aside in a session to be shown again.
        $secrets = ['current', 'password', 'password_confirmation'];
        $exceptions->dontFlash($secrets);
        $exceptions->render(fn (AuthenticationException $e, Request $request) => WholePage::to($request, '/login'));
        $exceptions->render(fn (Throwable $e, Request $request) => ! DatabaseDown::is($e)
            ? null
            : response()->view('errors.503', ['what' => 'The database does not answer', 'says' => DatabaseDown::SAYS], 503, [
                'Retry-After' => '10',
            ]));
        // A target that does not answer is no failure of ours: whatever was asked is refused with its words, on every route.
        $exceptions->dontReport(TargetUnavailable::class);
        $exceptions->render(
            fn (TargetUnavailable $e, Request $request) => $request->isMethodSafe()
                ? response()->view('errors.503', ['says' => $e->getMessage()], 503)
                : back()->withInput($request->except([...$secrets, '_token']))->with('refused', $e->getMessage()),
        );
        $exceptions->dontReport(LookGoing::class);
        $exceptions->render(fn (LookGoing $e, Request $request) => $request->isMethodSafe() ? null : Waiting::page($e, $request, $secrets));
        $exceptions->dontReport(EditLost::class);
        $exceptions->render(fn (EditLost $e, Request $request) => back()
            ->withInput($request->except([...$secrets, '_token', 'was']))
            ->with('refused', $e->getMessage())
            ->with('lost', $e->texts));
        // Of two who make the same at the same moment, or who press twice, one does; the other is told.
        $exceptions->dontReportWhen(fn (Throwable $e) => ! app()->runningInConsole() && SameMoment::says($e) !== null);
        $exceptions->render(function (QueryException $e, Request $request) use ($secrets) {
            $says = $request->isMethodSafe() ? null : SameMoment::says($e);

            return $says === null ? null : back()->withInput($request->except([...$secrets, '_token']))->with('refused', $says);
        });
    })
    ->create();
$app->singleton(ExceptionHandler::class, QuietErrors::class);

return $app;
