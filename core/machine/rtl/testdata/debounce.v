// A key behind two registers and a pause; each press is one edge of a clock of its own.
module top(input clk, input key, output reg [3:0] presses, output steady);
  reg a = 0, b = 0, quiet = 0;
  reg [11:0] t = 0;
  always @(posedge clk) begin
    a <= key;
    b <= a;
    if (b == quiet) t <= 0;
    else begin
      t <= t + 1'b1;
      if (t == 12'd2999) quiet <= b;
    end
  end
  assign steady = quiet;
  initial presses = 0;
  always @(posedge quiet) presses <= presses + 1'b1;
endmodule
