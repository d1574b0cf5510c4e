# Started beside `npm start`, whose end it hears as the end of its input: whatever way that came (a closed terminal, kill -9), the
# server and the database end too. Words: "server PID", and "done" when all was put away in order.
# Arguments: the command that stops the database.
trap '' INT TERM HUP
server=
while read -r word value; do
  case $word in
    server) server=$value ;;
    done) exit 0 ;;
  esac
done
[ -n "$server" ] && kill -TERM "$server" 2>/dev/null
"$@" >/dev/null 2>&1
[ -n "$server" ] && kill -KILL "$server" 2>/dev/null
exit 0
